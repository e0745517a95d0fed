"""A link as a QR code, which a phone reads off a print."""

import segno
from django.utils.safestring import SafeString, mark_safe


def qr_code(link: str) -> SafeString:
    """The code as SVG of any size, with a quiet zone of four modules (ISO/IEC 18004)."""
    drawn = segno.make(link, micro=False).svg_inline(border=4, svgclass="qr-code", omitsize=True)
    return mark_safe(drawn)  # noqa: S308  # all of it is drawn by the package from the link's modules
