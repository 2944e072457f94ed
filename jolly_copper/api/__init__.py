"""The web interface of the program: thin. It parses, calls the core and answers."""

from jolly_copper.api.app import create_app, give_birth, use

__all__ = ["create_app", "give_birth", "use"]
