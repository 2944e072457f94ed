"""The bench told to people: tests with where they stand, readings, what they teach."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import UTC, datetime, timedelta
from typing import Literal

from pydantic import BaseModel

from jolly_copper.core.circuits.lengths import point_on_track
from jolly_copper.core.proving.bench import Bench
from jolly_copper.core.proving.book_page import LogLine
from jolly_copper.core.proving.judging import band_words
from jolly_copper.core.proving.learn import Learned, Suspect
from jolly_copper.core.proving.meter_test import AGAIN, NAMES, MeterTest, board_of
from jolly_copper.core.proving.meters import KINDS, MeterKind
from jolly_copper.core.proving.places import WORSE_OHMS
from jolly_copper.core.proving.speaking import element_place, element_words, part_words
from jolly_copper.core.quantities import print_ohms
from jolly_copper.core.wirebook.places import on_track
from jolly_copper.store.bench import Meter, Reading

State = Literal["open", "sound", "bad", "unsure", "changed", "due"]


class ReadingShape(BaseModel):
    """A reading as typed, with what was foretold then."""

    id: str
    revision: int
    test: str
    shown: str
    value: float | None
    amps: float | None
    before: str
    meter: str
    foretold: str
    low: float | None
    high: float | None
    sound: bool | None
    verdict: str
    who: str
    done: str
    note: str


class TestShape(BaseModel):
    """A test with where it stands. changed: what it proves changed since it was read. due: read too long ago."""

    key: str
    kind: str
    kind_name: str
    title: str
    where: str
    prepare: str
    settings: list[str]
    unit: str
    foretold: str
    band: str
    value: float | None
    low: float | None
    high: float | None
    outside: str
    minutes: float
    caution: str
    power: bool
    track: str | None
    at: float | None
    x: float | None
    y: float | None
    tier: str
    board: str
    told: str
    state: State
    last: ReadingShape | None
    touched: bool
    """What it proves has changed since the change asked about, or it is new since."""


class TierShape(BaseModel):
    """The smallest set of loaded places that proves a tier. least: no set of fewer does."""

    tier: str
    words: str
    places: int
    least: int
    minutes: float
    done: int


class KindShape(BaseModel):
    setting: str
    name: str
    unit: str
    why: str


class MeterShape(BaseModel):
    id: str
    name: str
    setting: str
    setting_name: str
    factor: float | None
    checked: str
    who: str
    note: str


class BenchShape(BaseModel):
    revision: int
    words: str
    boards: list[str]
    tests: list[TestShape]
    tiers: list[TierShape]
    kinds: list[KindShape]
    meters: list[MeterShape]
    unseen: list[str]
    kept: int


STANDS_OUT = 0.4
LEAST_CHANCE = 0.02
TIER_WORDS = {
    "must": "every part that, open, would leave a rail without enough to trip or to run on",
    "every part": f"every feeder, terminal, plug and device, at {WORSE_OHMS:g} Ω too many",
    "every joint": "and every rail joint",
}


def reading_shape(r: Reading) -> ReadingShape:
    return ReadingShape(
        **{k: getattr(r, k) for k in ReadingShape.model_fields if k != "sound"},
        sound=None if r.sound is None else bool(r.sound),
    )


def reading_row(r: Reading) -> tuple[str, ...]:
    """A reading as the row of a table: time, who, test, reading, load, before, meter, foretold, verdict and so on."""
    sound = {1: "sound", 0: "not sound", None: ""}[r.sound]
    amps = "" if r.amps is None else f"{r.amps:g}"
    first = (r.done, r.who, r.test, r.shown, amps, r.before, r.meter, r.foretold)
    return (*first, r.verdict, sound, str(r.revision), r.note, r.id)


def log_line(r: Reading) -> LogLine:
    """A reading as the book has it."""
    sound = None if r.sound is None else bool(r.sound)
    return LogLine(r.test, r.shown, r.value, r.low, r.high, sound, r.verdict, r.who, r.done)


def state_of(test: MeterTest, last: Reading | None, now: datetime, days: float) -> State:
    """Where a test stands by its last reading; days: after which it is due again."""
    if last is None:
        return "open"
    if last.told and last.told != test.told:
        return "changed"
    if last.sound is None:
        return "unsure"
    if not last.sound:
        return "bad"
    times = AGAIN.get(test.kind)
    if times is not None and now - datetime.fromisoformat(last.done) > timedelta(days=times * days):
        return "due"
    return "sound"


def test_shape(
    bench: Bench, test: MeterTest, last: Reading | None, now: datetime, before: Mapping[str, str] | None = None
) -> TestShape:
    here = (
        point_on_track(bench.layout, test.track, test.at)
        if test.track is not None and test.at is not None
        else (None,) * 2
    )
    same = {
        k: getattr(test, k) for k in TestShape.model_fields if hasattr(test, k) and k not in ("settings", "minutes")
    }
    return TestShape(
        **same,
        kind_name=NAMES[test.kind],
        settings=[KINDS[s].name for s in test.settings],
        band=band_words(test.low, test.high, test.unit),
        minutes=test.minutes,
        x=here[0],
        y=here[1],
        board=board_of(bench.layout, test),
        state=state_of(test, last, now, bench.layout.brief.rules.prove_again),
        last=reading_shape(last) if last else None,
        touched=before is not None and before.get(test.key) != test.told,
    )


def last_of(readings: Sequence[Reading]) -> Mapping[str, Reading]:
    """The reading that counts for each test: the one done last."""
    return {r.test: r for r in readings}


def meter_shape(m: Meter) -> MeterShape:
    kind: MeterKind | None = KINDS.get(m.setting)  # type: ignore[call-overload]
    name = kind.name if kind else m.setting
    return MeterShape(**{k: getattr(m, k) for k in MeterShape.model_fields if hasattr(m, k)}, setting_name=name)


def bench_shape(
    bench: Bench,
    revision: int,
    readings: Sequence[Reading],
    meters: Sequence[Meter],
    before: Bench | None = None,
) -> BenchShape:
    """The bench as it stands; before: of an older change, to tell which tests were touched since."""
    told = {t.key: t.told for t in before.tests} if before is not None else None
    now = datetime.now(UTC)
    last = last_of(readings)
    tests = [test_shape(bench, t, last.get(t.key), now, told) for t in bench.tests]
    tiers = []
    proved = {t.key for t in tests if t.state == "sound"}
    for tier, cover in bench.covers.items():
        keys = {f"load:{p.key}" for p in cover.places}
        minutes = sum(bench.by_key[k].minutes for k in keys if k in bench.by_key)
        tiers.append(
            TierShape(
                tier=tier,
                words=f"{cover.spots} of {cover.spots + len(cover.unseen)}: {TIER_WORDS[tier]}",
                places=len(cover.places),
                least=bench.least[tier],
                minutes=minutes,
                done=len(keys & proved),
            )
        )
    parts = bench.covers["every part"]
    unseen = sorted(
        {
            element_words(bench.layout, bench.dc, bench.dc.grounds[s.ground].elements[s.elements[0]])
            for s in parts.unseen
        }
    )
    bad = sum(t.state == "bad" for t in tests)
    done = sum(t.state == "sound" for t in tests)
    words = f"{len(tests)} tests; {done} sound" + (f", {bad} not sound" if bad else "") + "."
    return BenchShape(
        revision=revision,
        words=words if tests else "Nothing to test yet: tests come with track, wire and a source.",
        boards=list(dict.fromkeys([b.name for b in bench.book.tasks] + [t.board for t in tests])),
        tests=tests,
        tiers=tiers,
        kinds=[KindShape(setting=k.setting, name=k.name, unit=k.unit, why=k.why) for k in KINDS.values()],
        meters=[meter_shape(m) for m in meters],
        unseen=unseen,
        kept=len(readings),
    )


class PartShape(BaseModel):
    words: str
    chance: float


class SuspectShape(BaseModel):
    """Parts no reading tells apart. chance: that one of them is bad."""

    words: str
    chance: float
    ohms: str
    parts: list[PartShape]
    track: str | None
    at: float | None
    x: float | None
    y: float | None


class JudgedShape(BaseModel):
    place: str
    where: str
    read: str
    foretold: str
    sigmas: float
    others: bool
    x: float
    y: float


class NextShape(BaseModel):
    place: str
    where: str
    track: str
    at: float


class LearnedShape(BaseModel):
    """What all readings say together. sound: chance that nothing they reach is bad."""

    words: str
    sound: float
    suspects: list[SuspectShape]
    judged: list[JudgedShape]
    shared: list[str]
    next: list[NextShape]


def learned_shape(bench: Bench, learned: Learned) -> LearnedShape:
    layout = bench.layout
    judged = []
    for j in learned.judged:
        track, _, at = j.place.rpartition("@")
        x, y = point_on_track(layout, track, float(at))
        judged.append(
            JudgedShape(
                place=j.place,
                where=on_track(layout, track, float(at)),
                read=print_ohms(j.read),
                foretold=print_ohms(j.foretold),
                sigmas=max(min(j.sigmas, 99.0), -99.0),
                others=j.others,
                x=x,
                y=y,
            )
        )
    suspects = [_suspect(bench, s) for s in learned.suspects if s.chance > LEAST_CHANCE]
    return LearnedShape(
        words=_learned_words(learned, suspects),
        sound=learned.sound,
        suspects=suspects,
        judged=judged,
        shared=[
            f"{name}: {100 * factor:+.0f} % ± {100 * spread:.0f} % of the table's ohms"
            for name, factor, spread in learned.shared
        ],
        next=[
            NextShape(place=p.key, where=on_track(layout, p.track, p.at), track=p.track, at=p.at) for p in learned.next
        ],
    )


def _learned_words(learned: Learned, suspects: Sequence[SuspectShape]) -> str:
    count = len(learned.judged)
    if not count:
        return "No reading under load yet. Ten places already say whether something is bad; thirty-five say where."
    if learned.sound > 0.5:
        return f"{count} readings, and nothing they reach need be bad ({learned.sound * 100:.0f} %)."
    first = suspects[0] if suspects else None
    if first is not None and first.chance < STANDS_OUT:
        return f"{count} readings: no part stands out as bad; {learned.sound * 100:.0f} % that all they reach is sound."
    if first is None:
        return f"{count} readings differ from what is foretold, and no single part explains it."
    return f"{count} readings: most likely {first.words}, {first.ohms}, {first.chance * 100:.0f} %."


def _suspect(bench: Bench, suspect: Suspect) -> SuspectShape:
    copper, layout = bench.dc, bench.layout
    elements = [copper.grounds[suspect.ground].elements[n] for n in suspect.elements]
    words = list(dict.fromkeys(element_words(layout, copper, e) for e in elements))
    track, at = next((w for e in elements if (w := element_place(layout, copper, e))[0] is not None), (None, None))
    here = point_on_track(layout, track, at) if track is not None and at is not None else (None, None)
    by_owner = {e.owner: e for e in reversed(elements)}
    chances: dict[str, float] = {}
    for part, conductor, chance in suspect.parts:
        said_of = part_words(layout, copper, by_owner.get(part.owner, elements[0]), part, conductor)
        chances[said_of] = chances.get(said_of, 0.0) + chance
    parts = [PartShape(words=w, chance=c) for w, c in chances.items() if c > LEAST_CHANCE][:3]
    about = f"at least {print_ohms(suspect.low)}" if suspect.open_too else f"about {print_ohms(suspect.ohms)}"
    said = (
        words[0]
        if len(words) == 1
        else f"{words[0]} or {'one' if len(words) > 2 else words[1]}"
        + (f" of {len(words) - 1} others no reading tells from it" if len(words) > 2 else "")
    )
    return SuspectShape(
        words=said, chance=suspect.chance, ohms=about, parts=parts, track=track, at=at, x=here[0], y=here[1]
    )
