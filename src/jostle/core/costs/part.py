"""What an amount was paid for, and the ways in which amounts are parted."""

from typing import Literal, NamedTuple, get_args

# What an amount was for that was brought as a whole
BROUGHT = "as it was billed"
# Of a disk whose instance is gone
DETACHED = "detached disk"
# Of an instance that stands stopped; it is on demand, however it was bought
STOPPED = "stopped machine"
# Whose an amount is that no instance was paid for
OWN = "the group"
By = Literal["for", "machine", "purchase", "zone", "version", "owned"]
WAYS: tuple[By, ...] = get_args(By)


class Part(NamedTuple):
    """`what` is machine, stopped machine, disk, address, load balancer, a kind of traffic, or what was brought; without a machine
    it is what the group pays for itself."""

    what: str
    machine: str = ""
    zone: str = ""
    version: int = 0
    overflow: bool = False
    spot: bool = False

    @property
    def purchase(self) -> str:
        """How it was bought; empty for what a group pays for itself."""
        return "" if not self.machine else "spot" if self.spot else "on-demand"

    def named(self, by: By, template: str = "") -> str:
        """The name of the part to which it belongs where an amount is parted in one way."""
        if by == "for":
            return self.what
        if not self.machine:
            return BROUGHT if self.what == BROUGHT else OWN
        match by:
            case "machine":
                return self.machine
            case "purchase":
                return self.purchase
            case "zone":
                return self.zone
            case "version":
                return f"{template} {self.version}".strip()
            case "owned":
                return "overflow" if self.overflow else "owned"
