"""What a rehearsal costs, to the last digit, and the two bounds between which it stands."""
