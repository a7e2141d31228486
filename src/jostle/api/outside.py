"""What waits for somebody else's server: so many at once, of which none waits for another."""

from typing import Annotated

from fastapi import Depends, Request

from jostle.api.turns import Turns

AT_ONCE = 8


def outside() -> Turns:
    return Turns(AT_ONCE, 0, f"{AT_ONCE} other servers are waited for already")


def outside_of(request: Request) -> Turns:
    found: Turns = request.app.state.outside
    return found


OutsideDep = Annotated[Turns, Depends(outside_of)]
