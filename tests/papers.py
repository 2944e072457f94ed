"""Plans on pages of paper. Invented data."""

from __future__ import annotations

import io

from reportlab.pdfgen import canvas

from jolly_copper.core.layout.document import Layout

SCALE, LEFT, TOP = 0.18, 20.0, 300.0
"""Points of the page to a mm of the plan, and where its origin lies."""


def plan_as_pdf(layout: Layout, pages: int = 2) -> bytes:
    """A cover, then the plan as single lines."""
    out = io.BytesIO()
    paper = canvas.Canvas(out, pagesize=(842, 400))
    for _ in range(pages - 1):
        paper.drawString(100, 200, "The club's plan, overleaf")
        paper.showPage()
    paper.setLineWidth(1.2)
    for node in layout.nodes.values():
        if node.kind == "turntable":
            paper.circle(LEFT + node.at.x * SCALE, TOP - node.at.y * SCALE, (node.diameter or 300) / 2 * SCALE)
    for track in layout.tracks.values():
        line = track.line
        path = paper.beginPath()
        path.moveTo(LEFT + line.xs[0] * SCALE, TOP - line.ys[0] * SCALE)
        for x, y in zip(line.xs[1:], line.ys[1:], strict=True):
            path.lineTo(LEFT + x * SCALE, TOP - y * SCALE)
        paper.drawPath(path)
    paper.save()
    return out.getvalue()
