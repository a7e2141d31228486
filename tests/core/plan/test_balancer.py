"""The name and the address of a load balancer."""

import pytest

from jostle.core.journal.behind import behind
from jostle.core.journal.sentence import group_page
from jostle.core.plan.problem import PlanError
from jostle.core.rehearsal.rehearser import rehearse
from tests.plans import plan


def made(**balancer):
    return plan(days=0.02, groups__web__load_balancer={"target": 8080, **balancer})


@pytest.mark.parametrize(
    ("told", "kept", "called"),
    [
        ({}, (None, None), ""),
        ({"host_name": "", "address": " "}, (None, None), ""),
        ({"host_name": "WWW.Example.org."}, ("www.example.org", None), "www.example.org"),
        ({"address": "203.0.113.7"}, (None, "203.0.113.7"), "203.0.113.7"),
        ({"host_name": "a.example", "address": "2001:DB8::0007"}, ("a.example", "2001:db8::7"), "a.example (2001:db8::7)"),
    ],
)
def test_a_balancer_is_called_as_the_plan_has_it(told, kept, called):
    found = rehearse(made(**told), "web")
    balancer = found.crew.group.load_balancer
    assert (balancer.host_name, balancer.address, balancer.called) == (*kept, called)
    assert behind(found, found.result).door.startswith(f"{called} takes https" if called else "takes https")
    words = group_page(found.crew, "EUR").words
    assert words["load_balancer.host_name"].text == (kept[0] or "not given")
    assert words["load_balancer.address"].text == (kept[1] or "not fixed")


@pytest.mark.parametrize("name", ["-a.example", "a..b", "a_b.example", "1.2.3.4", "x" * 64, "a b", "ü.example"])
def test_what_is_no_name_is_refused(name):
    with pytest.raises(PlanError, match=r"load_balancer\.host_name.*write a name such as www.example.org"):
        made(host_name=name)


@pytest.mark.parametrize("address", ["203.0.113", "300.1.1.1", "203.0.113.7/24", "here"])
def test_what_is_no_address_is_refused(address):
    with pytest.raises(PlanError, match=r"load_balancer\.address.*write an address such as 203.0.113.7"):
        made(address=address)
