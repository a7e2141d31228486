"""What an edit does to a plan, whoever makes it: the page, the command line, a file brought in, a search."""
