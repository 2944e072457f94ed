"""An address as a picture that a phone reads."""

from __future__ import annotations

from typing import Any

from reportlab.graphics.barcode import qrencoder

QUIET = 4
"""Empty modules on every side, as the standard asks (ISO/IEC 18004)."""


def qr_modules(text: str) -> list[list[bool]]:
    """The dark modules of a QR code, row by row; 15 % of it may be dirty.

    >>> len(qr_modules("x")) % 4
    1
    """
    code: Any = qrencoder.QRCode(None, qrencoder.QRErrorCorrectLevel.M)
    code.addData(text)
    code.make()
    count = code.getModuleCount()
    return [[bool(code.isDark(row, column)) for column in range(count)] for row in range(count)]


def qr_svg(text: str) -> str:
    """A QR code as SVG, dark on light in any theme."""
    rows = qr_modules(text)
    size = len(rows) + 2 * QUIET
    squares = "".join(
        f"M{x + QUIET} {y + QUIET}h1v1h-1z" for y, row in enumerate(rows) for x, dark in enumerate(row) if dark
    )
    namespace = "http" + "://www.w3.org/2000/svg"
    return (
        f'<svg xmlns="{namespace}" viewBox="0 0 {size} {size}" shape-rendering="crispEdges">'
        f'<path fill="#fff" d="M0 0h{size}v{size}H0z"/><path fill="#000" d="{squares}"/></svg>'
    )
