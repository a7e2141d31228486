"""What is kept: plans, arrangements and takes, in SQLite."""
