"""Starting the program: its port, its processes, its club file, and a sentence where one of them cannot be had."""

from __future__ import annotations

import contextlib
import ctypes
import errno
import signal
import socket
import ssl
import sys
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from types import FrameType
from typing import Any

from jolly_copper.calm import calm_collector
from jolly_copper.store import FileTrouble, Store


class CannotServe(Exception):
    """The program cannot start, in a sentence."""


@dataclass(frozen=True)
class Sharing:
    """How the program is opened to the club's network. certificate, key: None where the line is not encrypted."""

    lead: str
    helper: str
    certificate: Path | None = None
    key: Path | None = None


def sharing(lead: str | None, helper: str | None, certificate: Path | None, key: Path | None) -> Sharing:
    """The passphrases, made up where none are typed, and the certificate.

    Raises:
        CannotServe: a passphrase is too weak or both are one, or the certificate cannot be used.
    """
    from jolly_copper.api.passphrases import new_phrase, plain, why_too_weak

    for whose, typed in (("lead", lead), ("helpers", helper)):
        weak = why_too_weak(typed) if typed is not None else None
        if weak is not None:
            raise CannotServe(f"The passphrase of the {whose} is too weak. {weak}")
    found = Sharing(lead or new_phrase(5), helper or new_phrase(4), certificate, key)
    if plain(found.lead) == plain(found.helper):
        raise CannotServe("Lead and helpers want passphrases of their own.")
    if key is not None and certificate is None:
        raise CannotServe("A key is of no use without its certificate: add --certificate.")
    if certificate is not None:
        try:
            ssl.SSLContext(ssl.PROTOCOL_TLS_SERVER).load_cert_chain(certificate, key, password=lambda: "")
        except (OSError, ssl.SSLError) as error:
            raise CannotServe(f"The certificate {certificate} cannot be used: {error}.") from None
    return found


def serve(
    db: Path,
    port: int,
    shared: Sharing | None,
    copies: int,
    fill: Callable[[Store], None] | None,
    say: Callable[[str], None],
) -> None:
    """Serve a club file until it is stopped.

    Args:
        db: the club file.
        port: 0 for a free one.
        shared: how it is opened to the club's network; None for this machine alone.
        copies: how many nightly copies are kept.
        fill: given the open store before anybody is served.
        say: tells a line.

    Raises:
        CannotServe: the port or the file cannot be had; nothing was changed then.
    """
    _give_memory_back()
    listener = _listen(port, shared is not None)
    port = listener.getsockname()[1]
    import uvicorn

    from jolly_copper.api import create_app, give_birth, use
    from jolly_copper.api.access import Access
    from jolly_copper.api.doorway import Doorway, open_many_files
    from jolly_copper.store.copies import Nights
    from jolly_copper.store.people import People, people_file
    from jolly_copper.store.shelf import clear_out

    scheme = "https" if shared is not None and shared.certificate is not None else "http"
    people: People | None = None
    store: Store | None = None
    mother = None
    try:
        access = None
        if shared is not None:
            address = f"{scheme}://{own_address()}:{port}/under"
            access = Access(shared.lead, shared.helper, address=address, encrypted=scheme == "https")
        app = create_app(None, shared=access)
        calm_collector()
        mother = give_birth(app, str(db))  # before any thread or file is there
        store = Store(db)
        if access is not None:
            people = access.people.open(people_file(db))
        use(app, store)
        if fill is not None:
            fill(store)
        clear_out(store)
    except FileTrouble as trouble:
        listener.close()
        for thing in (store, mother):
            if thing is not None:
                thing.close()
        raise CannotServe(f"{db}: {trouble}") from None
    open_many_files()
    secure: dict[str, Any] = {}
    if shared is not None and shared.certificate is not None:
        secure = {"ssl_certfile": shared.certificate, "ssl_keyfile": shared.key}

    class Server(uvicorn.Server):
        def handle_exit(self, sig: int, frame: FrameType | None) -> None:
            app.state.live.close()  # windows that listen would be waited for
            super().handle_exit(sig, frame)

    server = Server(
        uvicorn.Config(
            app,
            http=Doorway,
            ws="none",
            log_level="warning",
            lifespan="off",
            timeout_graceful_shutdown=2,
            server_header=False,
            **secure,
        )
    )
    nights = Nights(db, copies) if copies else None
    if nights is not None:
        nights.start()
    say(f"Jolly Copper is at {scheme}://127.0.0.1:{port}/  (club file {db}; Ctrl-C stops it)")
    if shared is not None:
        say(
            f"On the club's network: {scheme}://{own_address()}:{port}/under\n"
            f"  helpers say: {shared.helper}\n  the lead says: {shared.lead}"
        )
        if scheme == "http":
            say("The line is not encrypted; share it on the club's own network only, or give a --certificate.")
    # The server hands a signal on once it has closed; a polite stop must not kill us before we have said goodbye.
    signal.signal(signal.SIGTERM, signal.default_int_handler)
    try:
        server.run(sockets=[listener])
    except KeyboardInterrupt:
        pass
    finally:
        for running in (mother, people):
            if running is not None:
                running.close()
        if nights is not None:
            nights.stop()
        store.close()
        say("Stopped. Everything is saved.")


def _give_memory_back() -> None:
    """Keep the C library from holding a pool of freed memory for every thread: 20 clients made 300 MB of such.

    What the matrices of a club's railroad take stays at hand all the same: given back after each use, and asked for
    again, it made an edit a third slower.
    """
    if sys.platform != "linux":
        return
    arenas, mapped_from, trimmed_from = -8, -3, -1  # M_ARENA_MAX, M_MMAP_THRESHOLD, M_TRIM_THRESHOLD: mallopt(3)
    with contextlib.suppress(OSError, AttributeError):
        library = ctypes.CDLL(None)
        library.mallopt(arenas, 2)
        library.mallopt(mapped_from, 4_000_000)
        library.mallopt(trimmed_from, 32_000_000)


def _listen(port: int, everywhere: bool) -> socket.socket:
    # Named as TCP, for only then the event loop sends small answers at once instead of waiting 40 ms for company.
    listener = socket.socket(socket.AF_INET, socket.SOCK_STREAM, socket.IPPROTO_TCP)
    listener.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        listener.bind(("0.0.0.0" if everywhere else "127.0.0.1", port))
        listener.listen(512)  # whoever calls the moment the address is said waits instead of being turned away
    except OSError as error:
        listener.close()
        if error.errno == errno.EACCES:
            raise CannotServe(f"Port {port} may not be used by this program. Choose one above 1023.") from None
        raise CannotServe(f"Port {port} is in use. Choose another: --port 0 picks a free one.") from None
    return listener


def own_address() -> str:
    """This machine's address on its network, found without sending anything."""
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as probe:
        try:
            probe.connect(("192.0.2.1", 9))  # an address set aside for documentation (RFC 5737); nothing is sent
            return str(probe.getsockname()[0])
        except OSError:
            return "127.0.0.1"
