"""The demo layouts."""

from jolly_copper.demo.gannet_bay import gannet_bay
from jolly_copper.demo.signalled import signalled_bay
from jolly_copper.demo.undivided import undivided_bay
from jolly_copper.demo.unwired import unwired_bay

__all__ = ["gannet_bay", "signalled_bay", "undivided_bay", "unwired_bay"]
