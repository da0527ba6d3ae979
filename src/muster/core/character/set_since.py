"""Which sessions speak of another source: those before it was last adjusted or serviced."""

from __future__ import annotations

from collections.abc import Sequence

from ..sessions import EventName
from .given import Dated

GOVERNED = ("hz", "no_load_hz", "v", "no_load_v")
"""How the keys begin of what a governor or a regulator sets."""
NOT_SERVICED = ("gap_ms",)
"""What no service changes."""


BURNT = ("lph", "idle_lph", "mid_lph", "lph_per_kw")
"""What hangs on the fuel alone."""


def _is_of_other_fuel(dated: Dated) -> bool:
    context = dated.findings.context
    ran_on = context.session.conditions.fuel
    return bool(ran_on) and context.source is not None and ran_on != context.source.claims.fuel


class SetSince:
    """The last session, of those in order of time, in which the source was adjusted, and in which it was serviced.

    What that session itself found is of after it (``since_set``).
    """

    def __init__(self, sessions: Sequence[Dated]) -> None:
        self.adjusted, self.serviced = (
            max((i for i, dated in enumerate(sessions) if any(dated.findings.context.events(name))), default=-1)
            for name in (EventName.ADJUST, EventName.SERVICE)
        )
        self.of_other_fuel = [_is_of_other_fuel(dated) for dated in sessions]

    def is_outdated(self, index: int, key: str) -> bool:
        """Whether a parameter of a session was read before a screw was turned or a part changed that it hangs on.

        What is burnt of one fuel says nothing of another.

        Parameters
        ----------
        index
            The session's place in the order of time.
        key
            The parameter's.
        """
        if index < self.serviced and not key.startswith(NOT_SERVICED):
            return True
        if key in BURNT and self.of_other_fuel[index]:
            return True
        return index < self.adjusted and any(
            key == start or key.startswith((start + "_", start + "1", start + "2")) for start in GOVERNED
        )
