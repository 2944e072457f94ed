"""The demo railroad: a scenario of our own, with a handful of honest mistakes planted in it."""

from jolly_copper.demo.gannet_bay import gannet_bay

__all__ = ["gannet_bay"]
