"""Chance by counting: a draw is a hash of seed, stream and index, and never of the order of calls.

Like numbered envelopes sealed beforehand: whoever opens number 17 of the noise finds the same thing inside, whatever
was opened before. So two arrangements under one seed meet the same week.
"""

STREAM_NOISE, STREAM_BOOT, STREAM_FAULT, STREAM_ARRIVE, STREAM_LEAVE = 1, 2, 3, 4, 5
# Each may be followed by 15 streams of its own
STREAM_BURN, STREAM_FINISH, STREAM_RETURN, STREAM_ASK, STREAM_MARKET, STREAM_RECLAIM = 64, 128, 192, 256, 320, 336
STREAM_SHOCK, STREAM_GAP, STREAM_ERROR, STREAM_SAMPLE = 352, 368, 384, 400

# Above this mean (and below its mirror) a count is drawn from a bell of the same mean and variance.
MANY = 60.0
