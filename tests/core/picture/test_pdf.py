from __future__ import annotations

import io
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from reportlab.lib import pagesizes, pdfencrypt
from reportlab.lib.utils import ImageReader
from reportlab.pdfgen import canvas

from drawings import parted_disc
from sobercrow.core.errors import PictureError
from sobercrow.core.picture.decode import decode_picture, read_bytes
from sobercrow.core.picture.pdf import as_file, is_pdf, page_sizes, render_page


def pdf(pages: int = 2, **options: object) -> bytes:
    """A PDF of A5 pages made by reportlab; page n has a square of n × 20 mm with its corner at 20 mm, 30 mm."""
    memory = io.BytesIO()
    sheet = canvas.Canvas(memory, pagesize=pagesizes.A5, **options)
    for n in range(1, pages + 1):
        mm = 72 / 25.4
        sheet.rect(20 * mm, 30 * mm, n * 20 * mm, n * 20 * mm, stroke=0, fill=1)
        sheet.showPage()
    sheet.save()
    return memory.getvalue()


@pytest.mark.parametrize("dpi", [100, 300])
@pytest.mark.parametrize("page", [1, 2])
def test_a_page_is_drawn_at_its_true_size(page: int, dpi: int) -> None:
    data = pdf()
    assert is_pdf(data)
    # ISO 216: A5 is 148 mm × 210 mm
    assert [(round(s.width_mm), round(s.height_mm)) for s in page_sizes(data, "two.pdf")] == [(148, 210)] * 2
    picture = render_page(data, "two.pdf", page, dpi)
    assert (picture.dpi, picture.dpi_stated) == (dpi, True)
    assert picture.width == pytest.approx(148 / 25.4 * dpi, abs=1)
    dark = (255 - picture.grey().astype(float)).sum() / 255
    assert np.sqrt(dark) == pytest.approx(page * 20 / 25.4 * dpi, rel=0.01)
    rows, columns = np.nonzero(picture.grey() < 128)
    assert columns.min() / dpi * 25.4 == pytest.approx(20, abs=0.3)
    assert 210 - (rows.max() + 1) / dpi * 25.4 == pytest.approx(30, abs=0.3)


def test_a_drawn_page_is_kept_as_file_with_its_resolution(tmp_path: Path) -> None:
    path = tmp_path / "one.pdf"
    path.write_bytes(pdf(1))
    picture = render_page(read_bytes(path), path.name, 1, 150)
    again = decode_picture(as_file(picture), picture.name)
    assert picture.name == "one.png"
    assert np.array_equal(again.pixels, picture.pixels)
    assert again.dpi == 150


def no_pages() -> bytes:
    return (
        b"%PDF-1.4\n1 0 obj<</Type/Catalog/Pages 2 0 R>>endobj\n2 0 obj<</Type/Pages/Kids[]/Count 0>>endobj\n"
        b"trailer<</Root 1 0 R>>\n%%EOF"
    )


BAD = {
    "encrypted": (lambda: pdf(1, encrypt=pdfencrypt.StandardEncryption("secret")), {}, "protected by a password"),
    "no pages": (no_pages, {}, "has no pages|damaged"),
    "broken off": (lambda: pdf()[:200], {}, "damaged"),
    "no PDF": (lambda: b"%PDF-nothing", {}, "damaged"),
    "no such page": (pdf, {"page": 3}, "has 2 pages, so there is no page 3"),
    "page nought": (lambda: pdf(1), {"page": 0}, "only one page"),
    "too coarse": (pdf, {"dpi": 1}, "50 to 1200 dpi"),
}


@pytest.mark.parametrize("case", BAD)
def test_a_bad_pdf_is_refused_in_one_sentence_that_names_it(case: str) -> None:
    make, options, words = BAD[case]
    with pytest.raises(PictureError, match=words) as caught:
        render_page(make(), "plan.pdf", **options)
    sentence = str(caught.value)
    assert sentence.endswith(".")
    assert case == "too coarse" or "plan.pdf" in sentence


def test_a_page_too_large_for_its_resolution_is_refused() -> None:
    memory = io.BytesIO()
    sheet = canvas.Canvas(memory, pagesize=(9000, 9000))
    sheet.showPage()
    sheet.save()
    with pytest.raises(PictureError, match="too large at 1200 dpi"):
        render_page(memory.getvalue(), "wall.pdf", 1, 1200)
    assert render_page(memory.getvalue(), "wall.pdf", 1, 50).width == 6250


def test_a_picture_is_no_pdf() -> None:
    memory = io.BytesIO()
    Image.new("L", (4, 4)).save(memory, "PNG")
    assert not is_pdf(memory.getvalue())


@pytest.mark.parametrize("beside", [False, True])
def test_a_picture_that_is_all_a_page_holds_comes_at_its_own_pixels(beside: bool) -> None:
    pixels = parted_disc()
    kept, memory = io.BytesIO(), io.BytesIO()
    Image.fromarray(pixels).save(kept, "JPEG", quality=40)
    sheet = canvas.Canvas(memory, pagesize=pagesizes.A5)
    sheet.drawImage(ImageReader(kept), 50, 80, 96, 96)  # 128 px on 96 points: 96 dpi
    if beside:
        sheet.drawString(20, 20, "Words")
    sheet.save()
    picture = render_page(memory.getvalue(), "one.pdf", 1, 150)
    if beside:
        assert picture.width == pytest.approx(148 / 25.4 * 150, abs=1)
        return
    assert (picture.width, picture.height, picture.dpi) == (128, 128, 96.0)
    assert picture.compression is not None
    assert picture.compression.quality == pytest.approx(40, abs=1)
    again = decode_picture(as_file(picture), picture.name)
    assert np.array_equal(again.pixels, picture.pixels)
    assert (again.dpi, again.dpi_stated) == (96.0, True)
