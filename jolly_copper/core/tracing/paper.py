"""The paper a plan was drawn on, taken out of its picture: light, shade, tint and pale scenery in one go."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

Floats = NDArray[np.float32]
Bytes = NDArray[np.uint8]
BLOCKS_ACROSS, PAPER_PERCENTILE, LEAST_PAPER = 70, 85, 0.35
DARK_PAPER = 0.42
"""Median brightness under which the lines are lighter than the paper."""


class Sheet(NamedTuple):
    """ink: how much light each pixel takes, 0 to 1, for red, green and blue; shape (H, W, 3). turned: light lines on
    dark paper, turned round."""

    ink: Floats
    turned: bool


def clean(picture: Bytes) -> Sheet:
    """The ink of a picture, paper taken out.

    1 − value/paper, where paper is the 85th percentile of blocks of a seventieth of the longest side, smoothed, and
    at least 0.35 of the whole sheet's.

    Args:
        picture: shape (H, W, 3), 0 to 255.
    """
    value = picture.astype(np.float32) / 255.0
    turned = bool(np.median(value.max(axis=2)) < DARK_PAPER)
    if turned:
        value = 1.0 - value
    height, width = value.shape[:2]
    block = max(8, max(height, width) // BLOCKS_ACROSS)
    rows, columns = -(-height // block), -(-width // block)
    whole = np.maximum(np.percentile(value.reshape(-1, 3), PAPER_PERCENTILE, axis=0), 1e-3)
    padded = np.pad(value, ((0, rows * block - height), (0, columns * block - width), (0, 0)), mode="edge")
    tiles = padded.reshape(rows, block, columns, block, 3).transpose(0, 2, 1, 3, 4).reshape(rows, columns, -1, 3)
    paper = np.percentile(tiles, PAPER_PERCENTILE, axis=2)
    paper = np.maximum(paper, LEAST_PAPER * whole)
    for k in range(3):
        channel = ndimage.median_filter(paper[..., k], size=3, mode="nearest")
        paper[..., k] = ndimage.gaussian_filter(channel, 1.0, mode="nearest")
    ys = (np.arange(height) + 0.5) / block - 0.5
    xs = (np.arange(width) + 0.5) / block - 0.5
    at = np.meshgrid(ys, xs, indexing="ij")
    for k in range(3):
        under = ndimage.map_coordinates(paper[..., k], at, order=1, mode="nearest", output=np.float32)
        value[..., k] = np.clip(1.0 - value[..., k] / under, 0.0, 1.0)
    return Sheet(value, turned)
