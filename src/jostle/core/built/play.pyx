# cython: language_level=3, infer_types=True, cdivision=True, boundscheck=False, wraparound=False, initializedcheck=False
"""The engine, compiled: what happens in a tick, and what is decided. Below are its doors, by which Python comes in."""

include "laying.pxi"
include "arithmetic.pxi"
include "../draw.pxi"
include "../plan/rollout.pxi"
include "../plan/tariff.pxi"
include "../plan/policy/hold.pxi"
include "../plan/policy/lookahead.pxi"
include "../plan/policy/spare.pxi"
include "../plan/policy/trigger.pxi"
include "../decide/ask.pxi"
include "../decide/decide.pxi"
include "../decide/expect.pxi"
include "../decide/leaving.pxi"
include "../decide/memory.pxi"
include "../decide/mending.pxi"
include "../decide/rollout.pxi"
include "../decide/sight.pxi"
include "../decide/stages.pxi"
include "../decide/stand.pxi"
include "../decide/turnover.pxi"
include "../engine/act.pxi"
include "../engine/advance.pxi"
include "../engine/answer.pxi"
include "../engine/apart.pxi"
include "../engine/asking.pxi"
include "../engine/burst.pxi"
include "../engine/buying.pxi"
include "../engine/carry_out.pxi"
include "../engine/carrying.pxi"
include "../engine/fifo.pxi"
include "../engine/guest.pxi"
include "../engine/hosting.pxi"
include "../engine/identity.pxi"
include "../engine/incident.pxi"
include "../engine/instance.pxi"
include "../engine/jobs.pxi"
include "../engine/kind.pxi"
include "../engine/launch.pxi"
include "../engine/launch_zone.pxi"
include "../engine/leaving.pxi"
include "../engine/lockstep.pxi"
include "../engine/market.pxi"
include "../engine/meter.pxi"
include "../engine/mix.pxi"
include "../engine/note.pxi"
include "../engine/queue.pxi"
include "../engine/ranking.pxi"
include "../engine/requests.pxi"
include "../engine/room.pxi"
include "../engine/roster.pxi"
include "../engine/seats.pxi"
include "../engine/sessions.pxi"
include "../engine/share.pxi"
include "../engine/side.pxi"
include "../engine/spell.pxi"
include "../engine/state.pxi"
include "../engine/swap.pxi"
include "../engine/watch.pxi"
include "../engine/work.pxi"


def group_words() -> int:
    """Words of 8 bytes that a group takes where it is laid down."""
    return sizeof(Group) // 8


def lay_group(setup, state, long address) -> None:
    """Lay down a setup and a state at an address, with room for `group_words`."""
    lay_both(setup, state, <Group*>address)


cdef struct Aboard:
    Setup setup
    Deck deck


cdef struct Kept:
    Rules rules
    Memory memory
    Sight sight


cdef int lay_aboard(object setup, object deck, Aboard* aboard) except -1:
    lay_whole(setup, &aboard.setup, sizeof(Setup))
    lay_whole(deck, &aboard.deck, sizeof(Deck))
    return 0


cdef int lay_kept(object rules, object memory, Kept* kept) except -1:
    lay_whole(rules, &kept.rules, sizeof(Rules))
    lay_whole(memory, &kept.memory, sizeof(Memory))
    return 0


cdef Array[Candidate] candidates_of(object given) except *:
    cdef Array[Candidate] found
    found.at, found.n = <Candidate*>start_of(given, sizeof(Candidate)), len(given)
    return found


cdef int lay_both(object setup, object state, Group* group) except -1:
    lay_whole(setup, &group.setup, sizeof(Setup))
    lay_whole(state, &group.state, sizeof(State))
    return 0


def advance(setup, state, long until) -> bool:
    """Play the ticks before number `until`. False where the record's room ran out first: grow it and go on; or where a fault was
    found that a keeper has to see to."""
    cdef Group group
    cdef bint whole
    lay_both(setup, state, &group)
    with nogil:
        whole = play_out(&group.setup, &group.state, until)
    return whole


def carry_on(addresses, long step, long until) -> int:
    """Play a host and its guests, laid down at these addresses, to tick `until`, in turns of `step` ticks at most.

    Returns -1; the number of the one whose record is full or, under a keeper, where a fault was found; or, under a keeper, the
    number of the one that is to be asked, those of all before it added."""
    cdef Array[long] groups = longs(addresses)
    cdef long stopped
    with nogil:
        stopped = c_carry_on(setup_at(groups[0]), state_at(groups[0]), groups, step, until)
    return stopped


def go_on(addresses, long quota, long step, long until, since, done, runs) -> int:
    """Play all groups that are laid down at these addresses to tick `until`, `step` ticks at a time. Returns -1, or the number of
    the group whose record is full.

    `since` says from when each has waited for a launch that was refused (s; infinite for none), `done` who has had its turn,
    `runs` how many instances each runs."""
    cdef Array[long] groups = longs(addresses), running = longs(runs)
    cdef Array[double] waited = doubles(since)
    cdef Array[flag] seen_to = flags(done)
    cdef long full
    with nogil:
        full = c_go_on(groups, quota, step, until, waited, seen_to, running)
    return full


def runs_now(setup, state) -> int:
    """Instances that a group runs on the machine whose quota is shared."""
    cdef Group group
    lay_both(setup, state, &group)
    return c_runs_now(&group.setup, &group.state)


def act(setup, state, long kind, double time, long i, long number, double amount, double length) -> int:
    """Do one thing from outside to an instance that a keeper keeps; `kind` is an Order or a HandAct. Returns -2 where the
    record has no room: grow it and do it again."""
    cdef Group group
    lay_both(setup, state, &group)
    return c_act(&group.setup, &group.state, kind, time, i, number, amount, length)


def next_by_each(setup, state, double time, each, chosen) -> None:
    """Write into `chosen` which instance would leave next by each of the criteria alone, -1 where none would. The rules of `setup`
    are to have one criterion, which is written over."""
    cdef Group group
    cdef Array[int8_t] criteria
    criteria.at, criteria.n = <int8_t*>start_of(each, 1), len(each)
    lay_both(setup, state, &group)
    c_next_by_each(&group.setup, &group.state, time, criteria, longs(chosen))


def next_out(setup, state, double time) -> tuple[int, int]:
    """Instance that would leave next, or -1, and the Reason."""
    cdef Group group
    lay_both(setup, state, &group)
    return c_next_out(&group.setup, &group.state, time)


def rank_places(setup, state, double time, ranks) -> tuple[int, int]:
    """Write into `ranks`, shape (types, zones), which place a spot launch would take now, which if that had nothing, and so on,
    from 1; 0 for those that it would not take. Returns the type that is bought on demand, and how the next launch is bought. The
    market of `setup` is written over."""
    cdef Group group
    cdef Grid[long] places
    places.at, places.n, places.m = <long*>start_of(ranks, 8), ranks.shape[0], ranks.shape[1]
    lay_both(setup, state, &group)
    return c_rank_places(&group.setup, &group.state, time, places)


def clear_room(setup, deck, long i, long kind, long zone) -> None:
    """Instance i of a host, of a kind and in a zone, has all its room but for what is still held of it."""
    cdef Aboard aboard
    lay_aboard(setup, deck, &aboard)
    c_clear_room(&aboard.setup, &aboard.deck, i, kind, zone)


def find_host(setup, deck) -> int:
    """The host on which the next copy of a guest is put, -1 where none has room for it."""
    cdef Aboard aboard
    lay_aboard(setup, deck, &aboard)
    return c_find_host(&aboard.setup, &aboard.deck)


def take_place(deck, long h, long g) -> None:
    """A copy of guest g is put on host h."""
    cdef Deck shared
    lay_whole(deck, &shared, sizeof(Deck))
    c_take_place(&shared, h, g)


def may_double(setup) -> bool:
    """Whether one may be there while that in whose place it comes still is."""
    cdef Setup own
    lay_whole(setup, &own, sizeof(Setup))
    return c_may_double(&own)


def units_doubled(setup, state) -> int:
    """What is there beyond the count meanwhile, in what the group counts in."""
    cdef Group group
    lay_both(setup, state, &group)
    return c_units_doubled(&group.setup, &group.state)


def decide(rules, memory, sight, orders, fleet, double time, decisions, views, long e) -> int:
    """The count that is wanted from `time` (s, on the clock of the samples) on.

    `orders` holds ORDER rows, shape (evaluations,); `fleet` one FLEET row. What was decided and why is written to row `e` of
    `decisions`, of DECISION, shape (evaluations,), and of `views`, of VIEW, shape (evaluations, policies); what is to be
    remembered to `memory`. With one row of each, `e` is 0. It touches no instance."""
    cdef Kept kept
    cdef Array[Order] said
    cdef Array[Decision] decided
    cdef Grid[View] looked
    lay_kept(rules, memory, &kept)
    lay_whole(sight, &kept.sight, sizeof(Sight))
    said.at, said.n = <Order*>start_of(orders, sizeof(Order)), len(orders)
    decided.at, decided.n = <Decision*>start_of(decisions, sizeof(Decision)), len(decisions)
    looked.at, looked.n, looked.m = <View*>start_of(views, sizeof(View)), views.shape[0], views.shape[1]
    return c_decide(&kept.rules, &kept.memory, &kept.sight, said, <Fleet*>start_of(fleet, sizeof(Fleet)), time, decided, looked, e)


def ask_now(rules, memory, sight, long p, double time, long desired) -> int:
    """The count that policy p would ask for now, a trigger as if its level were passed; -1 where it has no reading."""
    cdef Kept kept
    lay_kept(rules, memory, &kept)
    lay_whole(sight, &kept.sight, sizeof(Sight))
    return c_ask_now(&kept.rules, &kept.memory, &kept.sight, p, time, desired)


def restarts(rules, long restarted, bint stranded) -> bool:
    """Whether a broken instance that was restarted so often is restarted once more, rather than replaced."""
    cdef Rules own
    lay_whole(rules, &own, sizeof(Rules))
    return c_restarts(&own, restarted, stranded)


def set_by_hand(rules, memory, long count) -> int:
    """A hand sets the count, within the limits; it stands until a policy or a setting changes it. Returns what it became."""
    cdef Kept kept
    lay_kept(rules, memory, &kept)
    return c_set_by_hand(&kept.rules, &kept.memory, count)


def coming_version(rules, memory, double time) -> int:
    """The version that is being brought in, or that is to be from `time` on; -1 where none is."""
    cdef Kept kept
    lay_kept(rules, memory, &kept)
    return c_coming_version(&kept.rules, &kept.memory, time)


def roll_by_hand(rules, memory, long step, double time, long desired) -> bool:
    """What a hand does to the rollout under way, a Step: hold it, have it go on, stop it or turn it back. Whether it could be."""
    cdef Kept kept
    lay_kept(rules, memory, &kept)
    return c_roll_by_hand(&kept.rules, &kept.memory, step, time, desired)


def turnover(rules, memory, long goal, long present, long fresh, long serving, long quota) -> tuple[int, int, int, int]:
    """Instances to launch of the version that is brought in, and of the one before; and those of each that are to leave. See
    turnover.pxi."""
    cdef Kept kept
    lay_kept(rules, memory, &kept)
    return c_turnover(&kept.rules, &kept.memory, goal, present, fresh, serving, quota)


def version_before(memory) -> int:
    """The version whose place is being taken."""
    cdef Memory kept
    lay_whole(memory, &kept, sizeof(Memory))
    return c_version_before(&kept)


def next_to_leave(rules, candidates, long number, crowds) -> int:
    """Position of the first of `number` candidates to leave, or -1 where all have left. `candidates` are rows of CANDIDATE;
    `crowds` says how many are present in each zone."""
    cdef Rules own
    cdef cnp.ndarray zones = crowds.astype("i4")
    lay_whole(rules, &own, sizeof(Rules))
    return c_next_to_leave(&own, candidates_of(candidates), number, column_of(cnp.PyArray_DATA(zones), len(zones), 4))


def why_it(rules, candidates, long number, crowds, long chosen) -> int:
    """The Reason for which the chosen one leaves rather than the next in turn."""
    cdef Rules own
    cdef cnp.ndarray zones = crowds.astype("i4")
    lay_whole(rules, &own, sizeof(Rules))
    return c_why_it(&own, candidates_of(candidates), number, column_of(cnp.PyArray_DATA(zones), len(zones), 4), chosen)


def fold_window(samples, long published, long window, long fold) -> float:
    """The last `window` of the `published` samples as one value; nan where fewer than half of them are there."""
    return c_fold_window(singles(samples), published, window, fold)


def learn(usual, long slot, double rate) -> None:
    """Take one more week into what is usual at a place in it. `usual` are rows of USUAL, shape (SLOTS,)."""
    c_learn(usual_of(usual), slot, rate)


def banded(double value, bint below, long amount, bands, long bands_used) -> int:
    """The amount of the farthest band that a value is beyond, of `bands`, shape (bands, 2)."""
    return c_banded(value, below, amount, double_grid(bands), bands_used)
