# cython: language_level=3, cdivision=True, boundscheck=False, wraparound=False
"""How long each request waits that comes to instances with a line of their own; see counters.py."""

import numpy as np

MOST_PRESENT = 4096


def waits_of(double[:] times, double[:] lengths, long instances, long clerks, double patience, long way, long[:] draws):
    """The wait of each; nan where it gave up."""
    cdef double[:, :] free = np.zeros((instances, clerks))
    cdef double[:, :] leaves = np.empty((instances, MOST_PRESENT))
    cdef long[:] present = np.zeros(instances, np.int64)
    found = np.empty(len(times))
    cdef double[:] waits = found
    cdef long r, i, j, m, c, kept, fewest, ties
    cdef double t, wait, leave
    for r in range(times.shape[0]):
        t = times[r]
        if way == 0:
            i = draws[r] % instances
        elif way == 1:
            i = r % instances
        else:
            i, fewest, ties = 0, 1 << 60, 0
            for j in range(instances):
                kept = 0
                for m in range(present[j]):
                    if leaves[j, m] > t:
                        leaves[j, kept] = leaves[j, m]
                        kept += 1
                present[j] = kept
                if kept < fewest:
                    i, fewest, ties = j, kept, 1
                elif kept == fewest:
                    ties += 1
                    if (draws[r] >> 7) % ties == 0:
                        i = j
        c = 0
        for m in range(1, clerks):
            if free[i, m] < free[i, c]:
                c = m
        wait = max(0.0, free[i, c] - t)
        if wait > patience:
            waits[r] = np.nan
            leave = t + patience
        else:
            waits[r] = wait
            free[i, c] = t + wait + lengths[r]
            leave = free[i, c]
        if way == 2:
            leaves[i, present[i]] = leave
            present[i] += 1
    return found
