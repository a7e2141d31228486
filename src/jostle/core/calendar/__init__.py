"""When the calendar's entries hold, on the clock of a rehearsal."""
