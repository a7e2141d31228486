"""What is lived: groups kept on the stand-in, its clock, and what hands do."""
