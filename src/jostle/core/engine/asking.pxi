"""Clients that wait for their answer, think, and ask again: the slower the answers, the fewer they ask."""


cdef inline void ask_clients(Setup* setup, State* state, long k, double others, double can) noexcept nogil:
    """Write down what such clients are expected to send in tick k, beside `others` who ask whatever comes, of which the instances
    `can` answer so many; and what is drawn of it.

    In a steady state so many clients with a time to think and a time of an answer send clients / (think + answer), the law of
    interactive response times (Denning and Buzen, 1978). Where they ask more than can be answered, those that do not wait yet
    ask, and the line at the tick's end is reckoned with, so that never more wait than there are.
    """
    now = state.now
    fixed = setup.fixed
    total = 0.0
    for c in range(setup.thinks.n):
        total += setup.clients[c][k]
    waiting = max(0.0, now.backlog) * now.asking_part
    # Those who are answered, and those who gave up, ask again
    room = max(0.0, can - others) + now.gave_up * now.asking_part
    sent = &state.sent[k]
    sent.mean = 0.0
    if total > 0.0:
        for c in range(setup.thinks.n):
            clients = setup.clients[c][k]
            part = clients / total
            steady = clients / (setup.thinks[c] + now.answer) * fixed.tick
            free = clients - waiting * part
            crowded = (free + room * part) * fixed.tick / (setup.thinks[c] + now.quickest + fixed.tick)
            sent.mean += max(0.0, min(steady, crowded))
    sent.drawn = sent.mean
    if fixed.by_chance:
        sent.drawn = poisson(stream_of(fixed.seed, STREAM_ASK), k, sent.mean)
    now.asking_part = sent.mean / (sent.mean + others) if sent.mean > 0.0 else 0.0


cdef inline void note_answer(Setup* setup, State* state, double served, double lost) noexcept nogil:
    """How long an answer took on average in a tick in which so many were given and so many requests given up."""
    now = state.now
    fixed = setup.fixed
    now.quickest = fixed.base_latency + now.extra_latency + 1.0 / setup.kinds[0].service_rate
    longest = fixed.base_latency + fixed.timeout
    took = now.quickest
    if now.line > 0.0:
        took = min(longest, took + now.line / max(served / fixed.tick, 1e-9))
    now.gave_up = lost
    now.answer = 0.5 * (now.answer + took)
