"""Laying wire: corridors under the track, a near-minimal tree in them, and the runs, terminals and plugs it becomes."""
