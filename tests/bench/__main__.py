"""What is measured: the engine, the first result of a new process, the picture that follows an edit, light requests beside heavy
ones, keepers, the ledger, buying, hosts, and searches."""

from tests.bench import buying, engine, fairness, guests, keeping, ledger, page, search
from tests.bench.measuring import Size

PARTS = tuple(part for one in (engine, page, fairness, keeping, ledger, buying, guests, search) for part in one.PARTS)

if __name__ == "__main__":
    for part in PARTS:
        part(Size())
