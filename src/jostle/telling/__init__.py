"""How notices reach other programs."""
