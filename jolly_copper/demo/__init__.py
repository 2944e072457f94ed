"""The demo layouts."""

from jolly_copper.demo.gannet_bay import gannet_bay
from jolly_copper.demo.millbeck import millbeck, millbeck_unblocked
from jolly_copper.demo.signalled import signalled_bay
from jolly_copper.demo.tinplate import tinplate_lane
from jolly_copper.demo.undivided import undivided_bay
from jolly_copper.demo.unwired import unwired_bay

__all__ = [
    "gannet_bay",
    "millbeck",
    "millbeck_unblocked",
    "signalled_bay",
    "tinplate_lane",
    "undivided_bay",
    "unwired_bay",
]
