"""The demo data: Brindle Sound Ferries, a made-up operator in a made-up sound."""

from pathlib import Path

PLAN = Path(__file__).parent / "brindle-sound.yaml"
STARTER = PLAN.with_name("starter.yaml")
