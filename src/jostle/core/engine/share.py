"""Uneven load: instances whose shares of the arrivals or whose capacities differ.

Like regulars at a market who stay with their stall: a new stall wins customers only as old ones go home.
"""

# Shares within this part of an even one count as even.
EVEN = 0.01
