"""What can hurt is checked before every protocol, whatever the source: backfeed, exhaust, bonding, a cold battery, medical loads."""

from __future__ import annotations

import pytest

from muster.core.brief import Brief, Home, Wiring
from muster.core.kit import USUAL_KIT, Kit
from muster.core.outage.household import RuleKind
from muster.core.safety.checks import checks_for
from muster.core.sessions import PROTOCOLS
from muster.core.sources import Claims, Site, Source, SourceKind

from ..build import SINGLE, load

OXYGEN = load("1", "oxygen concentrator", "medical", 350)
COLD = Brief(system=SINGLE, wiring=Wiring.INTERLOCK, site=Site(0, -5))


@pytest.mark.parametrize("protocol", PROTOCOLS)
@pytest.mark.parametrize("kind", SourceKind)
def test_no_protocol_lacks_the_cautions_of_its_source(protocol: str, kind: SourceKind) -> None:
    source = Source("x", kind, Claims(cont_w=3000, battery_wh=None if kind.has_engine else 2000))
    checks = {
        check.slug: check for check in checks_for(protocol, Home(COLD, (OXYGEN,)), source, (), Kit(USUAL_KIT), {})
    }
    assert checks, "something is always looked at first"
    if PROTOCOLS[protocol].of_the_source:
        assert "isolation" in checks, "a source that feeds a panel kills whoever works on the line"
        assert "medical" in checks, "never tested on the person who needs it"
    if kind.has_engine and PROTOCOLS[protocol].of_the_source:
        assert "exhaust" in checks
        assert (
            "refuel" in " ".join(f"{check.title} {check.reason} {check.passes_by}" for check in checks.values()).lower()
        )
    if PROTOCOLS[protocol].charges and kind.has_battery:
        assert any("cold" in slug or "freez" in check.reason for slug, check in checks.items())


def test_no_rule_of_the_household_lacks_what_to_mind() -> None:
    told = {kind: kind.caution.lower() for kind in RuleKind}
    assert all(told.values())
    assert "exhaust" in told[RuleKind.CHARGE]
    assert "freezing" in told[RuleKind.CHARGE]
    assert "cold engine" in told[RuleKind.REFUEL]
    assert "medical" in told[RuleKind.APART]
    assert "licensed electrician" in told[RuleKind.OTHER_LEG]
    assert "licensed electrician" in told[RuleKind.SOFT_STARTER]
