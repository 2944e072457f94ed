"""The command line: `jolly-copper demo`, `serve`, `backup`, `check`, `export`, and the quick sums."""

from __future__ import annotations

import json
import sys
from collections.abc import Callable
from dataclasses import asdict
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer

if TYPE_CHECKING:
    from jolly_copper.serving import Sharing

app = typer.Typer(no_args_is_help=True, add_completion=False, help="Track power wiring for a club's model railroad.")
Port = Annotated[int, typer.Option(help="Port on this machine; 0 picks a free one.", min=0, max=65535)]
Database = Annotated[Path | None, typer.Option("--db", help="The club file (SQLite). Made when it is not there.")]


def _fail(message: str) -> typer.Exit:
    typer.echo(message, err=True)
    return typer.Exit(1)


def _club_file(name: str) -> Path:
    from platformdirs import user_data_path

    try:
        folder = user_data_path("jolly-copper", appauthor=False, ensure_exists=True)
    except OSError as error:
        raise _fail(f"The folder for the club file cannot be made: {error.strerror}. Name one with --db.") from None
    return folder / name


Share = Annotated[bool, typer.Option(help="Open to the club's network too, for phones under the boards.")]
LeadPhrase = Annotated[
    str | None, typer.Option(help="Passphrase of the lead, ten letters at least; made up when not given.")
]
HelperPhrase = Annotated[
    str | None, typer.Option(help="Passphrase of the helpers, ten letters at least; made up when not given.")
]
Certificate = Annotated[Path | None, typer.Option(help="Encrypt the line: a certificate of the club's own (PEM).")]
Key = Annotated[
    Path | None, typer.Option(help="The certificate's private key (PEM), where it is not in the same file.")
]
Copies = Annotated[int, typer.Option(help="Nightly copies kept beside the club file; 0 for none.", min=0, max=400)]


def _serve(
    sharing: Sharing | None, db: Path, port: int, copies: int, fill: Callable[[Any], None] | None = None
) -> None:
    from jolly_copper.serving import CannotServe, serve

    try:
        serve(db, port, sharing, copies, fill, typer.echo)
    except CannotServe as trouble:
        raise _fail(str(trouble)) from None


@app.command()
def demo(
    port: Port = 8127,
    db: Database = None,
    fresh: Annotated[bool, typer.Option(help="Forget earlier changes to the demo.")] = False,
    share: Share = False,
    lead_phrase: LeadPhrase = None,
    helper_phrase: HelperPhrase = None,
    certificate: Certificate = None,
    key: Key = None,
) -> None:
    """Start the app with the demo railroad."""

    def fill(store: Any) -> None:
        from jolly_copper.demo import DEMOS
        from jolly_copper.store.shelf import deleted

        known = {row["id"] for row in store.layouts()} | {d.id for d in deleted(store)}
        for name, layout in DEMOS.items():
            if fresh and name in known:
                store.delete(name)
            if fresh or name not in known:
                store.add(name, layout())

    sharing = _sharing(share, lead_phrase, helper_phrase, certificate, key)
    _serve(sharing, db or _club_file("demo.sqlite3"), port, 0, fill)


@app.command()
def serve(
    port: Port = 8127,
    db: Database = None,
    copies: Copies = 14,
    share: Share = False,
    lead_phrase: LeadPhrase = None,
    helper_phrase: HelperPhrase = None,
    certificate: Certificate = None,
    key: Key = None,
) -> None:
    """Start the app with your own layouts."""
    sharing = _sharing(share, lead_phrase, helper_phrase, certificate, key)
    _serve(sharing, db or _club_file("club.sqlite3"), port, copies)


def _sharing(
    share: bool, lead: str | None, helper: str | None, certificate: Path | None, key: Path | None
) -> Sharing | None:
    from jolly_copper.serving import CannotServe, sharing

    if not share:
        if certificate is not None or key is not None:
            raise _fail("A certificate is for a shared program: add --share.")
        return None
    try:
        return sharing(lead, helper, certificate, key)
    except CannotServe as trouble:
        raise _fail(str(trouble)) from None


@app.command()
def backup(
    to: Annotated[Path | None, typer.Argument(help="Where the copy goes; beside the club file when not given.")] = None,
    db: Database = None,
) -> None:
    """Copy the club file as it is now, also while the program runs, and look whether the copy is sound."""
    from jolly_copper.store import FileTrouble
    from jolly_copper.store.copies import backup as make
    from jolly_copper.store.copies import check_file as look
    from jolly_copper.store.copies import keep_now

    path = db or _club_file("club.sqlite3")
    try:
        made = make(path, to) if to is not None else keep_now(path)
        found = look(made)
    except FileTrouble as trouble:
        raise _fail(str(trouble)) from None
    typer.echo(f"{made}: {_many(found.layouts, 'layout')}, {_many(found.changes, 'change')}.")
    _tell(found.problems)


@app.command("check-file")
def check_file(db: Database = None) -> None:
    """Look whether the club file, or a copy of it, is sound: every layout is read. Exit code 3 when it is not."""
    from jolly_copper.store import FileTrouble
    from jolly_copper.store.copies import check_file as look

    path = db or _club_file("club.sqlite3")
    try:
        found = look(path)
    except FileTrouble as trouble:
        raise _fail(str(trouble)) from None
    typer.echo(f"{path}: {_many(found.layouts, 'layout')}, {_many(found.changes, 'change')}.")
    _tell(found.problems)


@app.command()
def restore(copy: Annotated[Path, typer.Argument(help="The copy to put back.")], db: Database = None) -> None:
    """Put a copy in the place of the club file. What was there is kept beside it."""
    from jolly_copper.store import FileTrouble, Store
    from jolly_copper.store.copies import put_back_damaged
    from jolly_copper.store.copies import restore as put_back

    path = db or _club_file("club.sqlite3")
    try:
        try:
            store = Store(path)
        except FileTrouble:
            kept = put_back_damaged(path, copy)  # the file itself cannot be opened: it is set aside as it is
        else:
            kept = put_back(store, copy)
            store.close()
    except FileTrouble as trouble:
        raise _fail(str(trouble)) from None
    typer.echo(f"{copy} is the club file now. What was there before is {kept}.")


@app.command()
def doctor(port: Port = 8127, db: Database = None) -> None:
    """Say what keeps the program from running here, in words. Nothing is changed. Exit code 3 when something does."""
    from jolly_copper.doctor import examine

    wrong = 0
    for found in examine(db or _club_file("club.sqlite3"), port):
        wrong += bool(found.mend)
        typer.echo(f"{'!' if found.mend else '·'} {found.about}: {found.said}")
        if found.mend:
            typer.echo(f"    {found.mend}")
    typer.echo(
        "Nothing stands in the way."
        if not wrong
        else f"{wrong} of these {'wants' if wrong == 1 else 'want'} seeing to."
    )
    if wrong:
        raise typer.Exit(3)


def _many(count: int, what: str) -> str:
    return f"{count} {what}{'' if count == 1 else 's'}"


def _tell(problems: tuple[str, ...]) -> None:
    for problem in problems:
        typer.echo(problem, err=True)
    if problems:
        raise typer.Exit(3)
    typer.echo("All of it is sound.")


def _load(file: Path) -> Any:
    from jolly_copper.core.layout.reading import LayoutError
    from jolly_copper.core.layout.saved import read_saved

    try:
        return read_saved(json.loads(file.read_text("utf-8")))
    except OSError as error:
        raise _fail(f"{file} cannot be read: {error.strerror}.") from None
    except (json.JSONDecodeError, UnicodeDecodeError, RecursionError) as error:
        raise _fail(f"{file} is not a JSON file: {error}.") from None
    except LayoutError as error:
        for problem in error.problems:
            typer.echo(f"{problem.path or '/'}: {problem.sentence}", err=True)
        raise typer.Exit(2) from None


LayoutFile = Annotated[Path, typer.Argument(help="A layout file (JSON).")]


@app.command()
def check(
    file: LayoutFile,
    scene: Annotated[str | None, typer.Option(help="Id of the scene; the first when not given.")] = None,
    as_json: Annotated[bool, typer.Option("--json", help="Findings as JSON.")] = False,
) -> None:
    """Work out a layout and list what to settle. Exit code 3 when there is a must."""
    from jolly_copper.core.circuits.facts import derive
    from jolly_copper.core.findings.check import check as find

    layout = _load(file)
    if scene is not None and scene not in layout.scenes:
        raise _fail(f"There is no scene {scene}; there are {', '.join(layout.scenes) or 'none'}.")
    found = find(derive(layout, scene or next(iter(layout.scenes), None)))
    if as_json:
        typer.echo(json.dumps([asdict(f) for f in found], indent=2, ensure_ascii=False))
    else:
        for f in found:
            typer.echo(
                f"{'accepted' if f.accepted else f.severity:8}  {f.title}\n          {f.why}\n          {f.mend}"
            )
        if not found:
            typer.echo("Nothing to settle.")
    if any(f.severity == "must" and not f.accepted for f in found):
        raise typer.Exit(3)


@app.command()
def export(
    file: LayoutFile,
    to: Annotated[str, typer.Option(help="csv (wire table), json (layout), spice (netlist).")] = "csv",
    out: Annotated[Path | None, typer.Option(help="File to write; printed when not given.")] = None,
) -> None:
    """Write a layout as a wire table, a layout file or a netlist."""
    from jolly_copper.exchange.spice import netlist
    from jolly_copper.exchange.tables import wires_csv

    layout = _load(file)
    writers: dict[str, Callable[[Any], str]] = {
        "csv": wires_csv,
        "json": lambda x: x.model_dump_json(indent=2) + "\n",
        "spice": netlist,
    }
    if to not in writers:
        raise _fail(f"“{to}” is not a format I write: csv, json or spice.")
    text = writers[to](layout)
    if out is None:
        sys.stdout.write(text)
    else:
        try:
            out.write_text(text, "utf-8", newline="")
        except OSError as error:
            raise _fail(f"{out} cannot be written: {error.strerror}.") from None
        typer.echo(f"Wrote {out}.")


@app.command("stand-in")
def stand_in(
    layout: Annotated[str, typer.Argument(help="Id of a layout in the club file.")],
    plan: Annotated[str, typer.Argument(help="Id of one of its plans.")],
    times: Annotated[float, typer.Option(min=0.1, max=300, help="Times as fast as in truth.")] = 1.0,
    port: Annotated[int, typer.Option(help="Port of this machine to listen on; 0 for a free one.")] = 4700,
    db: Database = None,
) -> None:
    """Play a rehearsed evening in real time over a line on this machine, as the railroad would report it."""
    from jolly_copper.stand_in import play

    try:
        play(db or _club_file("club.sqlite3"), layout, plan, times, port, typer.echo)
    except ValueError as error:
        raise _fail(str(error)) from None


@app.command("demo-file")
def demo_file() -> None:
    """Print the demo railroad as a layout file."""
    from jolly_copper.demo import gannet_bay

    typer.echo(gannet_bay().model_dump_json(indent=2))


@app.command()
def schema(names: Annotated[bool, typer.Option(help="Of the names file instead.")] = False) -> None:
    """Print the JSON Schema of the layout file, or of the names file."""
    from jolly_copper.core.layout.document import Layout
    from jolly_copper.exchange.names import NamesFile

    model = NamesFile if names else Layout
    typer.echo(json.dumps(model.model_json_schema(), indent=2, ensure_ascii=False))


@app.command(hidden=True)
def openapi() -> None:
    """Print the API's description, for generating the front end's types."""
    from jolly_copper.api import create_app
    from jolly_copper.store import Store

    typer.echo(json.dumps(create_app(Store(":memory:")).openapi(), indent=1))


def _ask(question: Any, answer: Any) -> Any:
    from jolly_copper.api.sums import FieldError

    try:
        return answer(question)
    except FieldError as error:
        raise _fail(f"{error.field}: {error}") from None


@app.command("size-run")
def size_run(
    length: Annotated[str, typer.Argument(help="One way: 35', 12 m.")],
    current: Annotated[str, typer.Argument(help="At the far end: 5 A, 300 mA.")],
    volts: Annotated[str, typer.Argument(help="At the supply: 14.4 V.")] = "14.4 V",
    drop: Annotated[str, typer.Option(help="Allowed drop, percent.")] = "5",
    metric: Annotated[bool, typer.Option(help="Metric sizes and metres.")] = False,
    solid: Annotated[bool, typer.Option(help="Solid wire.")] = False,
) -> None:
    """Which gauge a run wants: drop, short current and heat for every gauge."""
    from jolly_copper.api.sums import RunQuestion, quick_run

    question = RunQuestion(
        length=length,
        current=current,
        volts=volts,
        drop=drop,
        units="metric" if metric else "imperial",
        strands="solid" if solid else "stranded",
    )
    reply = _ask(question, quick_run)
    typer.echo(f"{reply.sentence}\n")
    typer.echo(f"{'':2}{'gauge':>9}  {'drop':>8}  {'share':>7}  {'short':>8}  {'heat':>8}  {'may carry':>9}")
    for row in reply.rows:
        mark = "→ " if row.gauge == reply.answer else "  "
        typer.echo(
            f"{mark}{row.gauge:>9}  {row.drop_text:>8}  {row.share_text:>7}  {row.short_text:>8}  {row.heat_text:>8}  "
            f"{row.carries_text:>9}  {row.why_not}"
        )
    typer.echo("\nLow volts can still burn: fuse near the supply. Local codes and licensed practice come first.")


@app.command()
def trains(
    booster: Annotated[str, typer.Argument(help="Rating: 5 A.")],
    train: Annotated[str, typer.Argument(help="One running train: 500 mA.")] = "500 mA",
    idle: Annotated[str, typer.Option(help="One standing train.")] = "100 mA",
    keep: Annotated[str, typer.Option(help="Percent kept for starts.")] = "20",
) -> None:
    """How many trains a booster carries."""
    from jolly_copper.api.sums import TrainsQuestion, quick_trains

    typer.echo(_ask(TrainsQuestion(booster=booster, train=train, idle=idle, keep=keep), quick_trains).sentence)


@app.command()
def led(
    supply: Annotated[str, typer.Argument(help="Supply: 12 V.")],
    led_volts: Annotated[str, typer.Argument(help="One LED: 2 V.")] = "2 V",
    current: Annotated[str, typer.Argument(help="10 mA.")] = "10 mA",
    series: Annotated[int, typer.Option(help="LEDs in series.", min=1, max=20)] = 1,
) -> None:
    """The resistor for an LED."""
    from jolly_copper.api.sums import LedQuestion, quick_led

    typer.echo(_ask(LedQuestion(supply=supply, led=led_volts, current=current, series=series), quick_led).sentence)


def main() -> None:
    """Entry point."""
    app()


if __name__ == "__main__":
    main()
