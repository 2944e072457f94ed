"""From the picture of a plan to lines of track: arrays in, a proposal out. No files, no chance: same picture and
settings, same answer."""
