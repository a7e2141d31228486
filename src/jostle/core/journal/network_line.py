"""What a plan knows of its network, and of metrics from outside, in words that stand for their settings."""

from jostle.core.plan.outside import Outside
from jostle.core.plan.template import Database, FirewallRule, Subnet
from jostle.core.plan.word import Word, choice_word, count_word, listed, say, say_count

GAPS = {"hold": "the last value was held", "line": "a line was drawn", "zero": "there was nothing"}


def subnet_words(name: str, subnet: Subnet) -> list[Word]:
    region = Word(text=subnet.region or "no region named", path=f"subnets.{name}.region", value=subnet.region or "")
    return [say("lies in zone "), choice_word(f"subnets.{name}.zone", subnet.zone), say(", "), region, say(".")]


def database_words(name: str, database: Database) -> list[Word]:
    written = ", ".join(database.subnets)
    return [
        say("stands in "),
        Word(text=listed(database.subnets), path=f"databases.{name}.subnets", value=written),
        say(" and is asked on port "),
        count_word(f"databases.{name}.port", database.port),
        say("."),
    ]


def rule_words(name: str, rule: FirewallRule) -> list[Word]:
    many = len(rule.ports) > 1 or not isinstance(rule.ports[0], int)
    written = ", ".join(map(str, rule.ports))
    shown = listed(map(str, rule.ports)) if "all" not in rule.ports else "all"
    return [
        say("lets in port" + ("s " if many else " ")),
        Word(text=shown, path=f"firewall.{name}.ports", value=written),
        say(" from " + ("anywhere, " if rule.from_anywhere else "")),
        Word(text=rule.source, path=f"firewall.{name}.source", value=rule.source),
        say("."),
    ]


def outside_words(outside: Outside) -> list[Word]:
    samples = outside.samples
    many = f", {say_count(len(samples.rates), 'sample')} from {samples.first:%Y-%m-%d} on" if samples else ""
    return [
        say(f"comes from {outside.file}{many}; where rows were missing, {GAPS[outside.gaps]}."),
    ]
