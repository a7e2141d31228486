"""Where instances really are: what a keeper asks of whatever runs them."""
