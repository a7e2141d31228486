"""Work that is done on other machines."""
