"""Drawings for decals: sizes in mm, codes that readers read, and vector files that do no harm."""

from __future__ import annotations

import io

import cv2
import numpy as np
import pytest
import zxingcpp
from PIL import Image

from usual_lamp.core.decals import CannotDraw, CodeDrawing, MarkingDrawing, ScaleDrawing, TextDrawing, draw, resized
from usual_lamp.core.decals.fonts import SHIPPED, font_named, read_font
from usual_lamp.core.decals.vector_files import is_svg, pdf_picture, safe_svg, svg_picture
from usual_lamp.core.exr import UnreadablePicture

SVG = '<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" width="20" height="10">'


def pixels(png: bytes) -> np.ndarray:
    return np.asarray(Image.open(io.BytesIO(png)))


def on_white(png: bytes) -> np.ndarray:
    """(H, W, 3), as it looks on paper."""
    image = pixels(png).astype(float)
    share = image[..., 3:] / 255
    return (image[..., :3] * share + 255 * (1 - share)).astype(np.uint8)


@pytest.mark.parametrize("font", sorted(SHIPPED))
def test_capitals_are_as_high_as_asked(font: str) -> None:
    """An H stands on its baseline and ends at the cap height, in every font."""
    drawn = draw(TextDrawing(text="H", font=font, cap_height=7.0))
    scale = pixels(drawn.png).shape[0] / drawn.height
    assert drawn.height == pytest.approx(7.0 + 2 / scale, abs=0.08)


def test_lines_alignment_and_spacing() -> None:
    ink = {}
    for align in ("left", "right"):
        drawn = draw(TextDrawing(text="HHHH\nH", align=align, cap_height=5.0, line=2.0))
        image = pixels(drawn.png)[..., 3]
        lower = np.flatnonzero(image[-image.shape[0] // 4 :].any(axis=0))
        ink[align] = (lower.min() / image.shape[1], lower.max() / image.shape[1])
        font = font_named("barlow")
        assert drawn.height == pytest.approx(5.0 + 2.0 * 5.0 / font.cap_height, rel=0.02)
    assert ink["left"][1] < 0.4 and ink["right"][0] > 0.6
    wide = draw(TextDrawing(text="HHHH", spacing=0.5)).width - draw(TextDrawing(text="HHHH")).width
    assert wide == pytest.approx(3 * 0.5 * 3.0 / font_named("barlow").cap_height, rel=0.02)


def test_codes_are_read_by_readers_of_others() -> None:
    """ISO/IEC 18004 by OpenCV, ISO/IEC 15417 by ZXing; sizes by the number of modules and the quiet zones."""
    qr = draw(CodeDrawing(text="PUMP-40/0017", module=0.4))
    found, _, _ = cv2.QRCodeDetector().detectAndDecode(on_white(qr.png))
    assert found == "PUMP-40/0017" and qr.width == qr.height == pytest.approx((21 + 8) * 0.4, rel=0.01)
    bars = draw(CodeDrawing(kind="code128", text="PUMP-40", module=0.25, height=8.0))
    image = on_white(bars.png)
    read = zxingcpp.read_barcode(np.pad(image, ((40, 40), (40, 40), (0, 0)), constant_values=255))
    assert (read.text, read.format) == ("PUMP-40", zxingcpp.BarcodeFormat.Code128)
    # Start, seven characters, check: 11 modules each, the stop 13, ten free on both sides.
    assert bars.width == pytest.approx((9 * 11 + 13 + 20) * 0.25, rel=0.01)


def test_ticks_lie_where_their_numbers_say() -> None:
    drawn = draw(ScaleDrawing(kind="scale line", last=4, length=40, long_every=1, numbers=False, tick=3.0))
    row = pixels(drawn.png)[..., 3]
    columns = np.flatnonzero((row > 128).any(axis=0))
    ticks = np.array([group.mean() for group in np.split(columns, np.flatnonzero(np.diff(columns) > 1) + 1)])
    assert np.diff(ticks) * drawn.width / row.shape[1] == pytest.approx(10.0, abs=0.05) and len(ticks) == 5
    arc = draw(ScaleDrawing(sweep=180, last=2, long_every=1, numbers=False, radius=10, tick=2))
    image, middle = pixels(arc.png)[..., 3], pixels(arc.png).shape[0] / 2
    y, x = np.nonzero(image > 128)
    radius = np.hypot(x - middle, y - middle) * arc.width / image.shape[1]
    assert radius.min() == pytest.approx(10, abs=0.15) and radius.max() == pytest.approx(12, abs=0.15)
    assert set(np.round(np.degrees(np.arctan2(x - middle, middle - y)) / 90)) == {-1, 0, 1}


def test_markings_have_their_size() -> None:
    for kind, width in (("arrow", 20.0), ("warning", 21.5), ("voltage", 21.5)):
        assert draw(MarkingDrawing(kind=kind, size=20.0)).width == pytest.approx(width, abs=0.15), kind
    turning = draw(MarkingDrawing(kind="turning arrow", size=20.0, sweep=300.0, line=0.02))
    assert turning.width == pytest.approx(20.0, rel=0.06)
    yellow = pixels(draw(MarkingDrawing(kind="warning")).png).reshape(-1, 4)
    ink = yellow[yellow[:, 3] == 255]
    # ISO 3864-1: at least half of a warning sign is yellow.
    assert (ink[:, 0] > 200).mean() >= 0.5


@pytest.mark.parametrize(
    ("drawing", "words"),
    [
        (TextDrawing(text="日"), "has no “日”"),
        (TextDrawing(text="  "), "nothing to be seen"),
        (CodeDrawing(kind="code128", text="Ω"), "Latin"),
        (ScaleDrawing(step=0.001), "larger step"),
        (ScaleDrawing(step=100), "at least two"),
        (TextDrawing(font="font:" + "a" * 64), "not to be had"),
    ],
)
def test_what_cannot_be_drawn_is_said(drawing, words: str) -> None:
    with pytest.raises(CannotDraw, match=words):
        draw(drawing)


def test_a_drawing_is_resized_in_round_numbers_within_its_limits() -> None:
    larger = resized(ScaleDrawing(cap_height=1.8, tick=2.0, radius=12.0), 3.0)
    assert (larger.cap_height, larger.tick, larger.radius, larger.sweep) == (5.5, 6.0, 35.0, 270.0)
    assert resized(TextDrawing(cap_height=3.0), 1e6).cap_height == 500.0
    assert resized(TextDrawing(cap_height=3.0), 1e-6).cap_height == 0.2


def test_text_is_text_and_not_markup(tmp_path) -> None:
    assert draw(TextDrawing(text='<a href="x">&amp;</a>')).width > draw(TextDrawing(text="<a")).width
    with pytest.raises(ValueError, match="no TrueType"):
        broken = tmp_path / "font.ttf"
        broken.write_bytes(b"\x00\x01\x00\x00 and nothing more")
        read_font(broken)


def test_an_svg_is_drawn_without_what_is_outside_of_it(tmp_path) -> None:
    secret = tmp_path / "secret.png"
    Image.new("RGB", (4, 4), (255, 0, 0)).save(secret)
    text = f"""{SVG}<script>alert(1)</script><rect width="10" height="10" fill="#00ff00" onclick="alert(2)"/>
    <image xlink:href="file://{secret}" x="10" width="10" height="10"/>
    <image href="{secret}" x="10" width="10" height="10"/><use href="https://example.org/a.svg#b"/>
    <rect x="12" width="4" height="4" style="fill:url(https://example.org/a.svg#c)"/></svg>"""
    made = safe_svg(text.encode())
    assert all(word not in made for word in (b"script", b"onclick", b"file:", b"secret", b"example.org"))
    image = np.asarray(svg_picture(text.encode()))
    assert image.shape[:2] == (1024, 2048) and tuple(image[500, 500]) == (0, 255, 0, 255)
    assert not (image[..., 0] > 200).any() and is_svg(text.encode()) and not is_svg(b"\x89PNG")


def test_an_svgs_own_paints_stay() -> None:
    """Gradients are named in several ways; only what is not the file's own goes."""
    ramp = '<linearGradient id="a"><stop stop-color="#0000ff"/></linearGradient>'
    paints = ("url(#a)", "url('#a')", "url( #a )", "URL(#a)")
    boxes = "".join(f'<rect x="{5 * k}" width="5" height="10" fill="{paint}"/>' for k, paint in enumerate(paints))
    made = safe_svg(f'{SVG}{ramp}{boxes}<rect fill="url(https://example.org#a)"/></svg>'.encode()).decode()
    assert all(paint in made for paint in paints) and "example.org" not in made
    image = np.asarray(svg_picture(f"{SVG}{ramp}{boxes}</svg>".encode()))
    assert tuple(image[500, 250]) == tuple(image[500, 750]) == (0, 0, 255, 255)


def test_an_svg_of_any_stated_size_has_its_form() -> None:
    """Its own size is not drawn: it may be a hundred metres, or a thread."""
    for width, height, form in ((1e6, 5e5, (1024, 2048)), (1, 40, (2048, 51))):
        text = SVG.replace('width="20" height="10"', f'width="{width}" height="{height}"')
        text += '<rect width="100%" height="100%"/></svg>'
        assert np.asarray(svg_picture(text.encode())).shape[:2] == pytest.approx(form, abs=1)


def test_bars_take_whole_pixels() -> None:
    """Else some would be a pixel wider than others, and a reader less sure."""
    image = pixels(draw(CodeDrawing(kind="code128", text="PUMP-40-00123", module=0.33)).png)
    row = on_white(draw(CodeDrawing(kind="code128", text="PUMP-40-00123", module=0.33)).png)[image.shape[0] // 2, :, 0]
    edges = np.flatnonzero(np.diff((row < 128).astype(int)))
    runs = np.diff(edges)
    assert (runs % runs.min() == 0).all() and set(runs // runs.min()) <= {1, 2, 3, 4}
    assert len(np.unique(row)) == 2, "black and white, nothing between"


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ('<!DOCTYPE svg [<!ENTITY x SYSTEM "file:///etc/passwd">]>' + SVG + "<text>&x;</text></svg>", "entities"),
        (SVG + "<rect", "damaged"),
        (SVG + '<image href="other.png" width="5" height="5"/></svg>', "Nothing is to be seen"),
    ],
)
def test_bad_svg_is_refused(text: str, words: str) -> None:
    with pytest.raises(UnreadablePicture, match=words):
        svg_picture(text.encode())


def test_many_paths_are_drawn() -> None:
    paths = "".join(f'<path d="M{k % 100} {k // 100}h1v1z"/>' for k in range(10_000))
    assert np.asarray(svg_picture(f"{SVG}{paths}</svg>".encode()))[..., 3].any()


def test_a_page_of_a_pdf_lies_on_clear_paper() -> None:
    import pypdfium2 as pdfium

    document = pdfium.PdfDocument.new()
    document.new_page(100, 200)
    page = document.new_page(200, 100)
    box = pdfium.raw.FPDFPageObj_CreateNewRect(0, 0, 100, 100)
    pdfium.raw.FPDFPageObj_SetFillColor(box, 255, 0, 0, 255)
    pdfium.raw.FPDFPath_SetDrawMode(box, pdfium.raw.FPDF_FILLMODE_ALTERNATE, False)
    pdfium.raw.FPDFPage_InsertObject(page, box)
    page.gen_content()
    file = io.BytesIO()
    document.save(file)
    first, pages = pdf_picture(file.getvalue())
    assert first.size == (1024, 2048) and pages == 2
    image = np.asarray(pdf_picture(file.getvalue(), 2)[0])
    assert image.shape[:2] == (1024, 2048)
    assert tuple(image[500, 500]) == (255, 0, 0, 255) and image[500, 1500, 3] == 0
    with pytest.raises(UnreadablePicture, match="damaged"):
        pdf_picture(b"%PDF-1.7 and nothing more")
    with pytest.raises(UnreadablePicture, match="no page 3: it has 2"):
        pdf_picture(file.getvalue(), 3)
