"""How a rollout goes from step to step: batch by batch, a canary first, on, stopped or back."""

# Terms of a chance that are summed: enough for a billion trials
MOST_SUMMED = 200_000
