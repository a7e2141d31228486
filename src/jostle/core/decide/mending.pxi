"""What becomes of an instance whose fault the health checks have found."""


cdef inline bint c_restarts(Rules* rules, long restarted, bint stranded) noexcept nogil:
    """Whether it is restarted, rather than replaced: not too often, and not in a zone that is lost."""
    return restarted < rules.row.restarts and not stranded
