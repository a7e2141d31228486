"""What was observed, turned into what a rehearsal is told."""
