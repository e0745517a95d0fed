"""A link as a QR code, which a phone reads off a print."""

import segno
from django.utils.safestring import SafeString, mark_safe

LONGEST_LINK = 2_000  # characters, nearly as many as the largest code of some redundancy holds


def qr_code(link: str) -> SafeString:
    """The code as SVG of any size, with a quiet zone of four modules (ISO/IEC 18004).

    Empty where the link is longer than any code holds.
    """
    if len(link) > LONGEST_LINK:
        return SafeString()
    drawn = segno.make(link, micro=False).svg_inline(border=4, svgclass="qr-code", omitsize=True)
    return mark_safe(drawn)  # noqa: S308  # all of it is drawn by the package from the link's modules
