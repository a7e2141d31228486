"""What a user defines: machines, launch templates, groups, demands, and the plan that holds them.

Think of a plan as the sheet of paper pinned above an operator's desk: everything that decides a week is on it,
and nothing else is. All objects are Pydantic models; quantities are held in seconds, shares of one, requests per
second and exact decimals of currency.
"""
