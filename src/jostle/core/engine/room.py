"""The room on a host's instances: who opens it and closes it, and who takes of it."""

# What is lost to rounding where room is compared
CRUMB = 1e-9
