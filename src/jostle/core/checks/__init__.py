"""What is worth a second look before it is live: findings, each with its reason and, where one exists, a mend."""
