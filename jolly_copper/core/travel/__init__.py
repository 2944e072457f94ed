"""Boards that travel: their joints, what crosses them, connectors, setting up and taking down."""
