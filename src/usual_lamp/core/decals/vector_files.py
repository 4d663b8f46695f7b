"""Vector files as pictures: SVG without scripts and without anything from outside, and pages of a PDF.

Both are read in the sandbox only, see `picture.decoding`.
"""

from __future__ import annotations

import io
import re
import xml.etree.ElementTree as ElementTree

from PIL import Image

from usual_lamp.core.decals.fonts import SHIPPED
from usual_lamp.core.exr import UnreadablePicture

LARGEST = 2048
"""Pixels along the longer side."""
PDF_START = b"%PDF"
HREFS = ("href", "{http://www.w3.org/1999/xlink}href")
NOT_DRAWN = ("script", "foreignObject", "iframe", "audio", "video", "animate", "set", "handler", "listener")
EMBEDDED = re.compile(r"data:image/(png|jpeg|webp|gif);base64,", re.IGNORECASE)

OUTSIDE = re.compile(r"url\((?!\s*['\"]?#)", re.IGNORECASE)
"""A paint, clip or mask that is not one of the file's own."""


def is_svg(data: bytes) -> bool:
    """Whether a file looks like SVG: text with an svg element near its start."""
    return data.lstrip(b"\xef\xbb\xbf \t\r\n").startswith(b"<") and b"<svg" in data[:65536]


def safe_svg(data: bytes) -> bytes:
    """The SVG without scripts, handlers and references to anything outside itself. Raises UnreadablePicture."""
    if re.search(rb"<!ENTITY", data, re.IGNORECASE):
        raise UnreadablePicture("This SVG declares entities, which are not read. Save it as plain SVG.")
    try:
        root = ElementTree.fromstring(data)
    except (ElementTree.ParseError, ValueError, LookupError) as error:
        raise UnreadablePicture("The SVG is damaged. Save it again as plain SVG.") from error
    for parent in list(root.iter()):
        for child in list(parent):
            if not isinstance(child.tag, str) or child.tag.rpartition("}")[2] in NOT_DRAWN:
                parent.remove(child)
    for element in root.iter():
        for name, value in list(element.attrib.items()):
            is_reference = name in HREFS and not value.startswith("#") and not EMBEDDED.match(value)
            if is_reference or OUTSIDE.search(value) or name.lower().startswith("on"):
                del element.attrib[name]
    return ElementTree.tostring(root)


def svg_picture(data: bytes) -> Image.Image:
    """An SVG as RGBA pixels, LARGEST along its longer side. Raises UnreadablePicture."""
    import resvg_py

    text = safe_svg(data).decode()
    fonts = [str(path) for _, path in SHIPPED.values() if path.exists()]
    options = {"svg_string": text, "skip_system_fonts": True, "font_files": fonts, "sans_serif_family": "DejaVu Sans"}
    try:
        # A small one tells its form, whatever size it says it has.
        small: Image.Image = Image.open(io.BytesIO(bytes(resvg_py.svg_to_bytes(**options, width=32))))
        longer = "width" if small.width >= small.height else "height"
        drawn: Image.Image = Image.open(io.BytesIO(bytes(resvg_py.svg_to_bytes(**options, **{longer: LARGEST}))))
    except ValueError as error:
        raise UnreadablePicture("Nothing can be drawn of this SVG. Save it as plain SVG, with a size.") from error
    drawn = drawn.convert("RGBA")
    if drawn.getchannel("A").getbbox() is None:
        raise UnreadablePicture("Nothing is to be seen of this SVG: all it refers to lies outside the file.")
    return drawn


def pdf_picture(data: bytes, number: int = 1) -> tuple[Image.Image, int]:
    """A page of a PDF as RGBA pixels, its paper clear, and how many it has. Raises UnreadablePicture."""
    import pypdfium2

    try:
        document = pypdfium2.PdfDocument(data)
    except pypdfium2.PdfiumError as error:
        if "password" in str(error).lower():
            raise UnreadablePicture("This PDF is encrypted. Save it without a password.") from error
        raise UnreadablePicture("The PDF is damaged. Save it again.") from error
    if len(document) == 0:
        raise UnreadablePicture("This PDF has no page.")
    if number > len(document):
        raise UnreadablePicture(f"This PDF has no page {number}: it has {len(document)}.")
    page = document[number - 1]
    width, height = page.get_size()
    scale = LARGEST / max(width, height, 1.0)
    drawn = page.render(scale=scale, fill_color=(255, 255, 255, 0), maybe_alpha=True, may_draw_forms=False)
    picture: Image.Image = drawn.to_pil()
    return picture.convert("RGBA"), len(document)
