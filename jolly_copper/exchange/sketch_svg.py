"""A drawing of the book as SVG."""

from __future__ import annotations

from html import escape

from jolly_copper.core.wirebook.sketch import MM_PER_POINT, Sketch

FOOT_MM = 7.0


def sketch_svg(sketch: Sketch, name: str = "sketch", whole_file: bool = True, footer: str = "") -> str:
    """The sketch in millimetres; for a page of HTML, without the namespace a file wants. footer: a line under it."""
    namespace = 'xmlns="http' + '://www.w3.org/2000/svg" ' if whole_file else ""
    w, h = f"{sketch.width:.1f}", f"{sketch.height + (FOOT_MM if footer else 0):.1f}"
    parts = [
        f'<svg {namespace}width="{w}mm" height="{h}mm" viewBox="0 0 {w} {h}" role="img" '
        f'aria-label="{escape(sketch.title)}">',
        f"<title>{escape(sketch.title)}</title>",
        f'<clipPath id="{name}-edge"><rect width="{w}" height="{h}"/></clipPath><g clip-path="url(#{name}-edge)">',
    ]
    for s in sketch.strokes:
        d = "M" + "L".join(f"{x:.2f} {y:.2f}" for x, y in s.points) + ("Z" if s.closed else "")
        dash = f' stroke-dasharray="{s.dash:g}"' if s.dash else ""
        parts.append(
            f'<path d="{d}" fill="{s.fill or "none"}" stroke="{s.ink}" stroke-width="{s.width:g}" '
            f'stroke-linejoin="round"{dash}/>'
        )
    for word in sketch.words:
        weight = ' font-weight="700"' if word.bold else ""
        parts.append(
            f'<text x="{word.x:.2f}" y="{word.y:.2f}" font-size="{word.size * MM_PER_POINT:.2f}" fill="{word.ink}" '
            f'text-anchor="{word.anchor}"{weight}>{escape(word.text)}</text>'
        )
    if footer:
        parts.append(
            f'<text x="1" y="{sketch.height + FOOT_MM - 2:.1f}" font-size="{7 * MM_PER_POINT:.2f}" '
            f'fill="#5b6368">{escape(footer)}</text>'
        )
    parts.append("</g></svg>")
    return "\n".join(parts)
