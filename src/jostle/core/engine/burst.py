"""Bursting machines: each saves credits while it gives less than its baseline, and spends them while it gives more."""

LEAST_PART = 0.02
# Seconds of a whole vCPU that are as good as none
GONE = 1e-6
