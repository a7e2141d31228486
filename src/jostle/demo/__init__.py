"""The demo data: Brindle Sound Ferries, a made-up operator in a made-up sound."""

from pathlib import Path

PLAN = Path(__file__).parent / "brindle-sound.yaml"
# What the second arrangement of booking-web buys, since 8 July
MIX = {"on_demand": {"first": 3, "share": 0.4}, "choose": "balanced", "caps": {"price": 0.7, "risk": 0.1}}
STARTER = PLAN.with_name("starter.yaml")
