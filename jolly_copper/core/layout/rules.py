"""House rules: every threshold the checks use, with its reason, its source and the schools that differ."""

from __future__ import annotations

from typing import Any

from pydantic import Field

from jolly_copper.core.layout.fields import Model, Number
from jolly_copper.core.materials.copper import USUAL_CELSIUS


def _rule(
    default: float,
    unit: str,
    title: str,
    reason: str,
    schools: str,
    *,
    ge: float = 0,
    le: float = 1e6,
    source: str = "common practice",
) -> Any:
    return Field(
        default=default,
        ge=ge,
        le=le,
        title=title,
        description=reason,
        json_schema_extra={"unit": unit, "schools": schools, "source": source},
    )


LIGHT_RAIL_CODE = 70
"""Rail of this code and under counts as light. Common practice, no source."""


class HouseRules(Model):
    """Thresholds a club may set for itself. Each field carries title, unit, reason, the schools and the source."""

    largest_drop: Number = _rule(
        0.05,
        "share of source volts",
        "Largest drop at the wheel",
        "Base: what the source should give, by label and brief, or gives where that is more. Beyond this trains slow, "
        "sound cuts out and short currents shrink.",
        "About 3 % in one school, 5 % in another, 10 % in a third",
        ge=0.005,
        le=0.5,
    )
    coin_margin: Number = _rule(
        1.5,
        "short current over trip current",
        "Coin test margin",
        "Dirty contacts and old joiners eat the margin first; a short that only just trips today will not next year.",
        "1.5 here; some accept anything that trips when tested yearly",
        ge=1.0,
        le=5,
    )
    feeder_spacing_light_rail: Number = _rule(
        914.4,
        "mm",
        "Feeder spacing, light rail (code 70 and under)",
        "Code 55 has more than twice the resistance of code 83, and joiners are not to be trusted.",
        "Every piece of rail; or every 3 ft; or every 6 to 8 ft for heavier rail",
        ge=100,
    )
    feeder_spacing_heavy_rail: Number = _rule(
        2438.4,
        "mm",
        "Feeder spacing, heavier rail (code 75 and over)",
        "Every 6 to 8 ft holds with sound joiners.",
        "Every piece of rail; or every 3 ft; or every 6 to 8 ft for code 83 and 100",
        ge=100,
    )
    joiners_in_a_row: Number = _rule(
        1,
        "joiners",
        "Joiners a train may depend on, one after another",
        "Joiners loosen and oxidise with heat, cold and damp. On a spur every joiner to the feeder carries the train.",
        "None at all (every length its own feeder); one; or as many as work today",
        ge=0,
        le=20,
    )
    longest_fine_feeder: Number = _rule(
        304.8,
        "mm",
        "Longest feeder, 20 AWG and thinner",
        "Thin feeders are meant to be short: they are the first to warm when a short does not trip.",
        "6 to 12 in for 20 to 22 AWG",
        ge=50,
    )
    longest_heavy_feeder: Number = _rule(
        812.8,
        "mm",
        "Longest feeder, thicker than 20 AWG",
        "Within reach of a terminal: 24 to 32 in for 18 AWG.",
        "24 to 36 in",
        ge=50,
    )
    breaker_below_booster: Number = _rule(
        0.9,
        "breaker trip over booster trip",
        "Breaker trips below its booster",
        "If the booster is as quick and as small as the breaker, one derailment stops every district.",
        "Any figure below 1; some want a whole ampere between",
        ge=0.3,
        le=1,
    )
    sustained_heat_per_metre: Number = _rule(
        1.0,
        "W per m of wire",
        "Heat a wire may give off in a short that never trips",
        "About 1 W per metre in a bundle is warm to the hand; several watts soften insulation.",
        "No figure is agreed; 1 W/m is cautious",
        ge=0.1,
        le=20,
    )
    count_inductance: bool = Field(
        default=True,
        title="Count the inductance of the wires (digital only)",
        description="Wires run apart lose more on a square wave than their copper says. Calculation, an estimate.",
        json_schema_extra={
            "unit": "yes or no",
            "schools": "Twist beyond 30 ft or 5 A; side by side will do; no benefit seen without symptoms",
            "source": "calculated",
        },
    )
    gap_stagger: Number = _rule(
        40,
        "mm",
        "Gaps of the two rails count as one pair when no farther apart than",
        "A cut in each rail at the same place parts the track; a little apart they do the same, as long as no "
        "engine's wheels "
        "stand between them.",
        "Straight across; or staggered by less than a rigid wheelbase, which keeps curves in shape",
        ge=10,
        le=300,
    )
    blade_ohms: Number = _rule(
        0.05,
        "Ω",
        "Contact of a turnout's blade",
        "Where a turnout routes power, its blade is all that joins the frog and the rails beyond to the stock rail.",
        "0.02 Ω new and clean, 0.2 Ω after a few years; 0 where blades are bonded with a wire",
        le=5,
    )
    half_bit: Number = _rule(
        58e-6,
        "s",
        "Half a digital bit",
        "Nominal length of half a one-bit, the worst case for inductance.",
        "58 µs",
        ge=20e-6,
        le=200e-6,
        source="NMRA S-9.1, from memory",
    )
    prove_again: Number = _rule(
        365,
        "days",
        "Meter it again after",
        "Joiners and contacts age: a coin and the volts under load find them before an open day does. Gaps and sources "
        "wait twice as long.",
        "A year; every three months where boards travel",
        ge=7,
        le=3650,
    )
    test_train: Number = _rule(
        0.5,
        "A",
        "Test train where the scene sends none",
        "Every rail is judged with a train on it, also where nobody runs tonight.",
        "One modern locomotive",
        ge=0.05,
        le=20,
    )
    longest_train: Number = _rule(
        1500,
        "mm",
        "Longest train, until trains are entered",
        "A reversing section must hold the longest train with metal wheels between its gaps.",
        "What the club runs; a coach or two more than the longest siding",
        ge=50,
    )
    shortest_radius: Number = _rule(
        0,
        "mm",
        "Smallest radius of curves; 0 for the scale's usual",
        "Tighter curves derail long coaches and strain couplers.",
        "By scale: about 5.5 times the length of the longest coach is easy running, 3 times the least",
        le=20000,
    )
    longest_district: Number = _rule(
        40000,
        "mm",
        "Most track in one district of the main",
        "One derailment stops a district. The more there are, the smaller the part of the railroad that stands.",
        "The main in two to four parts; or a district for every dispatcher's block",
        ge=1000,
    )
    smallest_district: Number = _rule(
        2500,
        "mm",
        "Least track worth a breaker of its own",
        "A short spur goes with the track it leaves.",
        "As few as can be served; or every track a switch of its own",
        ge=0,
    )
    amps_kept: Number = _rule(
        0.1,
        "share of a source's amps",
        "Kept free for starts when boosters are shared out",
        "Engines start together, and a source run at its rating all evening runs hot.",
        "None; 10 to 20 %; half in clubs that never look again",
        ge=0,
        le=0.6,
    )
    reference_wire: bool = Field(
        default=True,
        title="Boosters share a floating reference wire",
        description="A wire between the commons of station and boosters lets currents over gaps return by copper, "
        "not by signal leads. Never an earth rod, and never tied to the mains earth: that belongs to a licensed "
        "electrician.",
        json_schema_extra={
            "unit": "yes or no",
            "schools": "A floating wire where the maker provides a place for it; none where the boosters are isolated "
            "and the maker says so",
            "source": "common practice",
        },
    )
    drop_below_rail: Number = _rule(
        150,
        "mm",
        "From rail down to the wiring",
        "Through roadbed and board to where the terminals hang; added to the distance drawn on the plan.",
        "100 to 200 mm",
        le=1000,
    )
    slack_each_end: Number = _rule(
        75,
        "mm",
        "Slack at each end",
        "To strip, fit a connector, and do it again once.",
        "2 to 4 in",
        le=1000,
    )
    slack_share: Number = _rule(
        0.05,
        "share of length",
        "Slack along a run",
        "Wires sag, go round braces and are tied.",
        "5 to 10 %",
        le=1,
    )
    spool_imperial: Number = _rule(
        30480,
        "mm",
        "Spool length, feet",
        "What the shop sells.",
        "100 ft",
        ge=1000,
    )
    spool_metric: Number = _rule(
        25000,
        "mm",
        "Spool length, metres",
        "What the shop sells.",
        "25 or 50 m",
        ge=1000,
    )
    strip_pairs: Number = _rule(
        6,
        "pairs of wires",
        "Pairs in one screw strip",
        "More under one screw work loose. Join feeders first and run one pair in.",
        "Six in a strip of twelve places; two wires under a screw and no more",
        ge=1,
        le=60,
    )
    spare_posts: Number = _rule(
        0,
        "pairs",
        "Posts kept spare at every screw strip",
        "Next year's feeder, or the wire that broke off, then has a place. Asked for when strips are laid, and "
        "looked for at each.",
        "None; one pair at every strip; a third of each strip",
        le=30,
    )
    slack_at_feeders: Number = _rule(
        75,
        "mm",
        "Slack at each end of a feeder",
        "To reach the rail and the post, strip, and do it again once.",
        "2 to 4 in; 6 to 9 in for who solders from above and ties later",
        le=1000,
    )
    prepared_lead: Number = _rule(
        0,
        "mm",
        "Feeders are prepared in one length; 0 to cut each by itself",
        "Leads cut, stripped and tinned in a batch at the bench go in quicker; what is too long is cut off at the "
        "terminal.",
        "Each cut for its place; or leads of 24 in, made by the dozen",
        le=3000,
    )
    frog_unit_volts: Number = _rule(
        8,
        "V",
        "Least volts for an automatic frog unit",
        "Below it the unit does not turn the frog, and the engine stands shorted or dead on it. Certainty C: its "
        "sheet says.",
        "7 to 9 V, as printed",
        le=30,
    )
    longest_apart: Number = _rule(
        3000,
        "mm",
        "Longest run with its wires apart",
        "Every metre apart counts as three of copper on a square wave.",
        "A joist's width for a few metres, no more; never; others see no benefit without symptoms",
        ge=0,
    )
    longest_side_by_side: Number = _rule(
        9144,
        "mm",
        "Longest run with its wires side by side",
        "Beyond 30 ft or 5 A: 2 to 3 twists a foot, or paired cable.",
        "Side by side is enough under 30 ft; others never twist",
        ge=0,
    )
    runs_apart: Number = _rule(
        0,
        "mm",
        "Runs of different circuits lie apart by; 0 for tied in one bundle",
        "Apart, one district is not heard in another and a burnt wire hurts no other. Tied, it is tidy and quick.",
        "Tied every foot; or a hand's width apart",
        le=500,
    )
    colours_by_district: bool = Field(
        default=True,
        title="Every district its own pair of colours",
        description="So a helper under the board knows which zone a wire belongs to. Otherwise one pair for all track.",
        json_schema_extra={
            "unit": "yes or no",
            "schools": "One pair per district; or one pair for all track and other pairs for accessories",
            "source": "common practice",
        },
    )
    wire_celsius: Number = _rule(
        USUAL_CELSIUS,
        "°C",
        "Wire temperature for sums",
        "Under a baseboard on an open day. Copper gains 4 % from 20 to 30 °C.",
        "20 °C in most tables",
        ge=0,
        le=90,
    )

    def feeder_spacing(self, code: int) -> float:
        """How far apart feeders may be on rail of a code, mm."""
        return self.feeder_spacing_light_rail if code <= LIGHT_RAIL_CODE else self.feeder_spacing_heavy_rail


def rule_catalogue() -> list[dict[str, Any]]:
    """Every house rule with its title, unit, reason, schools, source and default, for the Brief step."""
    rows = []
    for key, field in HouseRules.model_fields.items():
        extra = field.json_schema_extra if isinstance(field.json_schema_extra, dict) else {}
        rows.append({"key": key, "title": field.title, "reason": field.description, "default": field.default, **extra})
    return rows
