"""What is decided about a group's count, and who leaves: from rules, memory, sight and the calendar, knowing no simulation."""
