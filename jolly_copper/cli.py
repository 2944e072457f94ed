"""The command line: `jolly-copper demo`, `serve`, `check`, `export`, and the quick sums."""

from __future__ import annotations

import json
import signal
import socket
import sys
from collections.abc import Callable
from dataclasses import asdict
from pathlib import Path
from typing import Annotated, Any

import typer

app = typer.Typer(no_args_is_help=True, add_completion=False, help="Track power wiring for a club's model railroad.")
Port = Annotated[int, typer.Option(help="Port on this machine; 0 picks a free one.", min=0, max=65535)]
Database = Annotated[Path | None, typer.Option("--db", help="The club file (SQLite). Made when it is not there.")]


def _fail(message: str) -> typer.Exit:
    typer.echo(message, err=True)
    return typer.Exit(1)


def _club_file(name: str) -> Path:
    from platformdirs import user_data_path

    folder = user_data_path("jolly-copper", appauthor=False, ensure_exists=True)
    return folder / name


Share = Annotated[bool, typer.Option(help="Open to the club's network too, for phones under the boards.")]
LeadPhrase = Annotated[str | None, typer.Option(help="Passphrase of the lead; made up when not given.")]
HelperPhrase = Annotated[str | None, typer.Option(help="Passphrase of the helpers; made up when not given.")]


def _own_address() -> str:
    """This machine's address on its network, found without sending anything."""
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as probe:
        try:
            probe.connect(("192.0.2.1", 9))  # an address set aside for documentation (RFC 5737); nothing is sent
            return str(probe.getsockname()[0])
        except OSError:
            return "127.0.0.1"


def _serve(
    db: Path, port: int, share: bool = False, lead_phrase: str | None = None, helper_phrase: str | None = None
) -> None:
    import uvicorn

    from jolly_copper.api import calm_collector, create_app
    from jolly_copper.api.access import Access, new_phrase
    from jolly_copper.store import Store

    shared = Access(lead_phrase or new_phrase(5), helper_phrase or new_phrase(3)) if share else None
    if shared is not None and shared.role_of(shared.helper) == "lead":
        raise _fail("Lead and helpers want passphrases of their own.")
    listener = socket.socket(socket.AF_INET, socket.SOCK_STREAM)
    listener.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        listener.bind(("0.0.0.0" if share else "127.0.0.1", port))
        listener.listen(128)  # whoever calls the moment the address is said waits instead of being turned away
    except OSError:
        raise _fail(f"Port {port} is in use. Choose another: --port 0 picks a free one.") from None
    store = Store(db)
    calm_collector()
    server = uvicorn.Server(
        uvicorn.Config(
            create_app(store, shared=shared), log_level="warning", lifespan="off", timeout_graceful_shutdown=2
        )
    )
    typer.echo(f"Jolly Copper is at http://127.0.0.1:{listener.getsockname()[1]}/  (club file {db}; Ctrl-C stops it)")
    if shared is not None:
        typer.echo(
            f"On the club's network: http://{_own_address()}:{listener.getsockname()[1]}/under\n"
            f"  helpers say: {shared.helper}\n  the lead says: {shared.lead}\n"
            "The line is not encrypted; share it on the club's own network only."
        )
    # The server hands a signal on once it has closed; a polite stop must not kill us before we have said goodbye.
    signal.signal(signal.SIGTERM, signal.default_int_handler)
    try:
        server.run(sockets=[listener])
    except KeyboardInterrupt:
        pass
    finally:
        store.close()
        typer.echo("Stopped. Everything is saved.")


@app.command()
def demo(
    port: Port = 8127,
    db: Database = None,
    fresh: Annotated[bool, typer.Option(help="Forget earlier changes to the demo.")] = False,
    share: Share = False,
    lead_phrase: LeadPhrase = None,
    helper_phrase: HelperPhrase = None,
) -> None:
    """Start the app with the demo railroad."""
    from jolly_copper.demo import gannet_bay, signalled_bay, undivided_bay, unwired_bay
    from jolly_copper.store import Store

    path = db or _club_file("demo.sqlite3")
    store = Store(path)
    known = {row["id"] for row in store.layouts()}
    demos = (
        ("gannet-bay-signalled", signalled_bay),
        ("gannet-bay-unwired", unwired_bay),
        ("gannet-bay-undivided", undivided_bay),
        ("gannet-bay", gannet_bay),
    )
    for name, layout in demos:
        if fresh and name in known:
            store.delete(name)
        if fresh or name not in known:
            store.add(name, layout())
    store.close()
    _serve(path, port, share, lead_phrase, helper_phrase)


@app.command()
def serve(
    port: Port = 8127,
    db: Database = None,
    share: Share = False,
    lead_phrase: LeadPhrase = None,
    helper_phrase: HelperPhrase = None,
) -> None:
    """Start the app with your own layouts."""
    _serve(db or _club_file("club.sqlite3"), port, share, lead_phrase, helper_phrase)


def _load(file: Path) -> Any:
    from jolly_copper.core.layout.reading import LayoutError
    from jolly_copper.core.layout.saved import read_saved

    try:
        return read_saved(json.loads(file.read_text("utf-8")))
    except OSError as error:
        raise _fail(f"{file} cannot be read: {error.strerror}.") from None
    except (json.JSONDecodeError, UnicodeDecodeError) as error:
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
        out.write_text(text, "utf-8", newline="")
        typer.echo(f"Wrote {out}.")


@app.command("demo-file")
def demo_file() -> None:
    """Print the demo railroad as a layout file."""
    from jolly_copper.demo import gannet_bay

    typer.echo(gannet_bay().model_dump_json(indent=2))


@app.command()
def schema() -> None:
    """Print the JSON Schema of the layout file."""
    from jolly_copper.core.layout.document import Layout

    typer.echo(json.dumps(Layout.model_json_schema(), indent=2, ensure_ascii=False))


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
