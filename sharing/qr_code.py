"""A link as a QR code, which a phone reads off a print."""

import segno
from django.utils.safestring import SafeString, mark_safe

MODULE = 3  # units of the drawing; the page sets its size


def qr_code(link: str) -> SafeString:
    """The code as SVG, with a quiet zone around it (ISO/IEC 18004 wants four modules)."""
    drawn = segno.make(link, micro=False).svg_inline(scale=MODULE, border=4, svgclass="qr-code")
    return mark_safe(drawn)  # noqa: S308  # all of it is drawn by the package from the link's modules
