"""The web interface of the program: thin. It parses, calls the core and answers."""

from jolly_copper.api.app import calm_collector, create_app, give_birth, use

__all__ = ["calm_collector", "create_app", "give_birth", "use"]
