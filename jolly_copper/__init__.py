"""Jolly Copper: design, prove, build and keep the track power wiring of a club's model railroad."""

__version__ = "0.1.0"
