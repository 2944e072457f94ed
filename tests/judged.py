"""What the rules say of a small railroad: the findings of one rule, their figures, and the railroad once mended."""

from __future__ import annotations

import re

from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.findings.check import check
from jolly_copper.core.findings.model import Finding
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.patching import apply_patch
from jolly_copper.demo.drafting import Draft


def told(about: Draft | Layout, rule: str, scene: str | None = None) -> list[Finding]:
    """What one rule finds, in the scene named, or with nothing running."""
    layout = about.plain() if isinstance(about, Draft) else about
    return [f for f in check(derive(layout, scene)) if f.rule == rule]


def said(finding: Finding) -> dict[str, str]:
    """The figures of a finding by what they are of, as they are printed."""
    return dict(finding.figures)


def severities(found: list[Finding]) -> list[str]:
    """How grave each finding is, in their order."""
    return [f.severity for f in found]


def number(text: str) -> float:
    """The first number of a printed figure, without its unit.

    >>> number("1,250 mm"), number("0.71 W")
    (1250.0, 0.71)
    """
    found = re.search(r"-?\d[\d,]*\.?\d*", text)
    assert found, text
    return float(found[0].replace(",", ""))


def mended(about: Draft | Layout, finding: Finding, which: int = 0) -> Layout:
    """The railroad after a mend the finding offers."""
    layout = about.plain() if isinstance(about, Draft) else about
    return apply_patch(layout, finding.mends[which].patch)


def falls_silent(about: Draft | Layout, finding: Finding, scene: str | None = None) -> bool:
    """Whether every mend that is offered, made by itself, removes the finding; there is at least one."""
    assert finding.mends, finding.title
    ways = range(len(finding.mends))
    return all(finding.key not in {f.key for f in told(mended(about, finding, n), finding.rule, scene)} for n in ways)
