"""What is wrong with a file of a series, by row and column."""

from dataclasses import dataclass

MOST_FAULTS = 20


@dataclass(frozen=True)
class Fault:
    """What is wrong at a row (the heading is row 1) and column of a file."""

    row: int | None
    column: str | None
    value: str
    message: str

    def __str__(self) -> str:
        place = "".join([f"row {self.row}: " if self.row else "", f"{self.column}: " if self.column else ""])
        value = f'"{self.value}": ' if self.value else ""
        return f"{place}{value}{self.message}"


class SeriesError(ValueError):
    """A file that cannot be used, with its faults (at most twenty, and how many more) and the columns that are known."""

    def __init__(self, faults: list[Fault]) -> None:
        shown = faults[:MOST_FAULTS]
        if len(faults) > MOST_FAULTS:
            shown = [*shown, Fault(None, None, "", f"and {len(faults) - MOST_FAULTS} more rows cannot be read")]
        super().__init__("; ".join(map(str, shown)))
        self.faults = shown
        self.columns: list[str] = []
