"""The demo layouts."""

from collections.abc import Callable

from jolly_copper.core.layout.document import Layout
from jolly_copper.demo.gannet_bay import gannet_bay
from jolly_copper.demo.harbour_arm import harbour_arm, harbour_open
from jolly_copper.demo.millbeck import millbeck, millbeck_unblocked
from jolly_copper.demo.signalled import signalled_bay
from jolly_copper.demo.tinplate import tinplate_lane
from jolly_copper.demo.undivided import undivided_bay
from jolly_copper.demo.unwired import unwired_bay

DEMOS: dict[str, Callable[[], Layout]] = {
    "harbour-arm-open": harbour_open,
    "harbour-arm": harbour_arm,
    "tinplate-lane": tinplate_lane,
    "millbeck-unblocked": millbeck_unblocked,
    "millbeck": millbeck,
    "gannet-bay-signalled": signalled_bay,
    "gannet-bay-unwired": unwired_bay,
    "gannet-bay-undivided": undivided_bay,
    "gannet-bay": gannet_bay,
}
"""Every demo by the id it has in a club file, in the order they are put there: the last one opens first."""

__all__ = [
    "DEMOS",
    "gannet_bay",
    "harbour_arm",
    "harbour_open",
    "millbeck",
    "millbeck_unblocked",
    "signalled_bay",
    "tinplate_lane",
    "undivided_bay",
    "unwired_bay",
]
