"""The catalogue in words that stand for its settings: machines, and what is paid besides."""

from decimal import Decimal

from jostle.core.plan.machine import Machine, Prices
from jostle.core.plan.quantity import say_duration, say_number, say_price
from jostle.core.plan.word import Word, choice_word, say, share_word, time_word

STOPPED = {True: "as much as running", False: "its disk only"}
BILLED = {"second": "by the second", "hour": "by the started hour"}


def machine_words(name: str, machine: Machine, currency: str) -> dict[str, list[Word]]:
    """The words of each column of a machine; their paths are those of the plan."""
    path = f"machines.{name}"

    def word(field: str, text: str) -> Word:
        return Word(text=text, path=f"{path}.{field}", value=None if field == "spot" else getattr(machine, field))

    return {
        "power": [word("vcpus", str(machine.vcpus)), say(" × "), word("speed", say_number(machine.speed))],
        "architecture": [choice_word(f"{path}.architecture", machine.architecture)],
        "memory": [word("memory_gib", f"{say_number(machine.memory_gib)} GiB")],
        "price": [_price(f"{path}.price_per_hour", machine.price_per_hour, currency), say(" an hour")],
        "billed": [
            choice_word(f"{path}.billed_by", machine.billed_by, BILLED[machine.billed_by]),
            say(", at least "),
            time_word(f"{path}.least_billed", machine.least_billed),
        ],
        "boot": [
            word("boot_time", "as the template says" if machine.boot_time is None else say_duration(machine.boot_time)),
            say(", give or take "),
            share_word(f"{path}.boot_spread", machine.boot_spread),
        ],
        "stopped": [word("billed_when_stopped", STOPPED[machine.billed_when_stopped])],
        "quota": [word("quota", "no quota" if machine.quota is None else f"at most {machine.quota}")],
        "spot": [word("spot", "not sold as spot")] if machine.spot is None else machine.spot.words(f"{path}.spot"),
        "bursts": _burst_words(path, machine),
        "network": [
            word("network_mbit", "no limit" if machine.network_mbit is None else f"{say_number(machine.network_mbit)} Mbit/s")
        ],
        "free": [word("free_hours", free_text(machine) or "nothing")],
    }


def free_text(machine: Machine) -> str:
    """What of it is not charged for; empty where all is."""
    return f"{say_number(machine.free_hours)} h a month" if machine.free_hours else ""


def _burst_words(path: str, machine: Machine) -> list[Word]:
    if machine.baseline is None:
        return [Word(text="all it has", path=f"{path}.baseline")]
    return [
        share_word(f"{path}.baseline", machine.baseline),
        say(", more on credits: "),
        time_word(f"{path}.first_credits", machine.first_credits),
        say(" at boot, up to "),
        time_word(f"{path}.most_credits", machine.most_credits),
    ]


def prices_words(prices: Prices, currency: str) -> list[Word]:
    """What is paid besides machines, as a sentence."""
    return [
        say("Besides: a GiB of disk costs "),
        _price("prices.disk_gib_month", prices.disk_gib_month, currency),
        say(" for 730 h, a public address "),
        _price("prices.address_hour", prices.address_hour, currency),
        say(" an hour, a load balancer "),
        _price("prices.load_balancer_hour", prices.load_balancer_hour, currency),
        say(" an hour and "),
        _price("prices.load_balancer_gib", prices.load_balancer_gib, currency),
        say(" a GiB that it carries, a GiB to the world "),
        _price("prices.gib_out", prices.gib_out, currency),
        say(", of which "),
        Word(text=f"{say_number(prices.free_gib_out)} GiB", path="prices.free_gib_out", value=prices.free_gib_out),
        say(" a month are free."),
    ]


def _price(path: str, amount: Decimal, currency: str) -> Word:
    return Word(text=say_price(amount, currency), path=path, value=float(amount))
