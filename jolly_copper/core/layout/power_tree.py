"""The power tree: which device feeds which circuit, and what protects it."""

from __future__ import annotations

from dataclasses import dataclass, field

from jolly_copper.core.layout.document import Device, Layout

SOURCES = frozenset({"station", "booster", "cab", "transformer output"})
"""Where power for the track starts."""
DC_SOURCES = frozenset({"supply", "step-down"})
"""Where direct current for accessories starts, and where fewer volts of it start."""
PROTECTS = SOURCES | {"breaker"}


@dataclass(frozen=True)
class PowerTree:
    """Devices by the circuit they feed, with the questions everyone asks of the tree."""

    layout: Layout
    fed_by: dict[str, str]
    _upstream: dict[str, tuple[str, ...]] = field(default_factory=dict, compare=False, repr=False)
    _lineage: dict[str, tuple[str, ...]] = field(default_factory=dict, compare=False, repr=False)

    def upstream(self, circuit: str) -> tuple[str, ...]:
        """Device ids from the one that feeds this circuit up to the source, nearest first."""
        if (known := self._upstream.get(circuit)) is not None:
            return known
        found: list[str] = []
        at: str | None = circuit
        while at is not None and at in self.fed_by:
            device_id = self.fed_by[at]
            found.append(device_id)
            device = self.layout.devices[device_id]
            at = None if device.kind in SOURCES else device.input
        return self._upstream.setdefault(circuit, tuple(found))

    def protection(self, circuit: str) -> tuple[str, Device] | None:
        """The nearest device upstream that opens on too much current, with its id."""
        for device_id in self.upstream(circuit):
            device = self.layout.devices[device_id]
            if device.kind in PROTECTS and device.trip_amps is not None:
                return device_id, device
        return None

    def source(self, circuit: str) -> tuple[str, Device] | None:
        """The station or booster this circuit's power comes from, with its id."""
        for device_id in self.upstream(circuit):
            device = self.layout.devices[device_id]
            if device.kind in SOURCES:
                return device_id, device
        return None

    def unsensed(self, circuit: str | None) -> str | None:
        """The circuit above the detectors a circuit hangs behind; itself where there are none."""
        while (
            circuit is not None
            and (i := self.fed_by.get(circuit)) is not None
            and self.layout.devices[i].kind == "detector"
        ):
            circuit = self.layout.devices[i].input
        return circuit

    def district(self, circuit: str) -> str:
        """The power district a circuit belongs to: the nearest circuit upstream (or itself) behind a protection."""
        for device_id in self.upstream(circuit):
            if self.layout.devices[device_id].kind in PROTECTS:
                return self.layout.devices[device_id].output
        return circuit

    def lineage(self, circuit: str) -> tuple[str, ...]:
        """The circuit itself, then each circuit its power comes through, up to the source's output."""
        if (known := self._lineage.get(circuit)) is not None:
            return known
        above = [
            up
            for d in self.upstream(circuit)
            if self.layout.devices[d].kind not in SOURCES and (up := self.layout.devices[d].input) is not None
        ]
        return self._lineage.setdefault(circuit, (circuit, *above))

    def within(self, circuit: str, ancestors: frozenset[str]) -> bool:
        """Whether a circuit is one of these or hangs below one of them."""
        return any(c in ancestors for c in self.lineage(circuit))


def reads_a_rail(layout: Layout, device: Device) -> bool:
    """Whether a detector channel only reads an isolated rail: no power passes it, a wheel joins that rail to the other
    one."""
    return device.board is not None and layout.detectors[device.board].kind == "isolated rail"


def may_hang(layout: Layout, device_id: str, circuit: str) -> bool:
    """Whether a device may take its power from a circuit: of its own kind of power, and not from what hangs below
    itself.

    A source or a supply hangs under nothing; a step-down wants an accessory bus; all else wants the power it passes on.
    """
    device = layout.devices[device_id]
    if device.kind in SOURCES or device.kind == "supply" or circuit not in layout.circuits:
        return False
    wanted = "accessory" if device.kind == "step-down" else layout.circuits[device.output].purpose
    tree = grow_tree(layout)
    return layout.circuits[circuit].purpose == wanted and not tree.within(circuit, frozenset({device.output}))


def grow_tree(layout: Layout) -> PowerTree:
    """The power tree of a layout."""
    return PowerTree(layout, {d.output: i for i, d in layout.devices.items()})
