"""Times of blocking, signalling, aspects, interlocking and the panel, on the demo and on ten of it. Run by `make
bench`."""

from __future__ import annotations

from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.findings.check import check
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.patching import apply_patch
from jolly_copper.core.proposals.blocking.make import make_blocks, propose_blocks
from jolly_copper.core.proposals.signalling import make_signals, propose_signals
from jolly_copper.core.proposals.sizing import size_runs
from jolly_copper.core.signals.aspects import lies_of, signalling
from jolly_copper.core.signals.interlocking import junctions, prove
from jolly_copper.core.signals.occupancy import Standing, occupied
from jolly_copper.core.wirebook.compose import compose
from jolly_copper.core.wirebook.panel import draw_panel
from jolly_copper.demo import gannet_bay
from jolly_copper.exchange.book_pdf import book_pdf
from tools.bench import copies
from tools.bench_book import timed


def row(name: str, layout: Layout, book: bool) -> None:
    print(f"\n{name}: {len(layout.tracks)} tracks")
    proposal = timed("blocks, boards and addresses proposed", lambda: propose_blocks(layout))
    blocked = apply_patch(layout, timed("made, with wire home", lambda: make_blocks(layout, proposal)))
    near = (proposal.wire - proposal.bound) / proposal.wire
    print(
        f"  {len(proposal.plan.lots)} sections on {proposal.boards} boards; home wire at most {near * 100:.1f} % over "
        "the least"
    )
    heads = timed("signals proposed", lambda: propose_signals(blocked))
    patch, plan = timed("set, with lamps and motors", lambda: make_signals(blocked, heads))
    then = apply_patch(blocked, patch)
    if plan.lamps.wire:
        print(
            f"  {len(heads)} signals; cable ways at most {(1 - plan.lamps.bound / plan.lamps.wire) * 100:.0f} % over "
            "the least"
        )
    known = signalling(then)
    timed("every way of every signal", lambda: (known.routes, known.crossing))
    lies = lies_of(then)
    track = next(iter(then.tracks))
    train = Standing("E", None, track, 100.0, "b")
    timed(
        "a train placed, every head's aspect",
        lambda: known.show(lies, occupied(then, known.rails, known.ways, known.sensed, [train], lies).lit),
    )
    timed("all junctions proved", lambda: [prove(known, j) for j in junctions(known)])
    timed("the panel drawn", lambda: draw_panel(then))
    facts = timed("everything derived", lambda: derive(then, next(iter(then.scenes), None)))
    timed("findings", lambda: check(facts))
    if book:
        timed("runs sized, one wire and two", lambda: size_runs(facts))
        made = timed("the book put together", lambda: compose(facts, 1, "2026-01-01"))
        timed("as PDF", lambda: book_pdf(made))


def main() -> None:
    row("The demo", gannet_bay(), True)
    row("Ten of it", copies(gannet_bay(), 10), False)


if __name__ == "__main__":
    main()
