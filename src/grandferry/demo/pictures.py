"""Pictures drawn by the demo itself: engines and views as PNG, a badge as SVG, a small PDF."""

from __future__ import annotations

import io
import random

from PIL import Image, ImageDraw


def engine_picture(number: int, width: int = 480, height: int = 300) -> bytes:
    """An engine in front of hills, as PNG; the number sets colours and shapes."""
    r = random.Random(number)
    image = Image.new("RGB", (width, height), (206, 222, 230))
    draw = ImageDraw.Draw(image)
    for layer in range(3):
        shade = 120 + 30 * layer
        points = (
            [(0, height)]
            + [(x, height * 0.4 + 30 * layer + r.randrange(-18, 18)) for x in range(0, width + 40, 40)]
            + [(width, height)]
        )
        draw.polygon(points, fill=(shade - 40, shade, shade - 60))
    colour = (r.randrange(30, 120), r.randrange(30, 110), r.randrange(30, 100))
    base = int(height * 0.72)
    draw.rectangle((90, base - 70, 330, base - 15), fill=colour)
    draw.rectangle((280, base - 120, 380, base - 15), fill=tuple(c // 2 for c in colour))
    draw.rectangle((120, base - 110, 145, base - 70), fill=(30, 30, 30))
    for wheel in range(2 + number % 3):
        x = 110 + wheel * 80
        draw.ellipse((x, base - 25, x + 56, base + 31), fill=(25, 25, 25), outline=(160, 160, 160), width=4)
    for puff in range(5):
        x, size = 132 - puff * 20, 16 + puff * 7
        draw.ellipse(
            (x - size, base - 130 - puff * 22 - size, x + size, base - 130 - puff * 22 + size), fill=(236, 238, 240)
        )
    draw.line((0, base + 32, width, base + 32), fill=(90, 80, 70), width=6)
    out = io.BytesIO()
    image.save(out, "PNG", optimize=True)
    return out.getvalue()


def panorama() -> bytes:
    """The valley from end to end, 6,000 pixels wide, in black and white, as PNG."""
    r = random.Random(902)
    image = Image.new("1", (6000, 2000), 1)
    draw = ImageDraw.Draw(image)
    ridge = [(x, 900 + r.randrange(-260, 260)) for x in range(0, 6100, 100)]
    draw.polygon([(0, 2000), *ridge, (6000, 2000)], fill=0)
    draw.line([(x, y + 420) for x, y in ridge], fill=1, width=24)
    out = io.BytesIO()
    image.save(out, "PNG")
    return out.getvalue()


def silence(seconds: int) -> bytes:
    """Silence as MPEG-1 layer III: frames of 417 bytes at 128 kbit/s and 44.1 kHz, 1,152 samples each (ISO 11172-3)."""
    frame = b"\xff\xfb\x90\xc4" + bytes(413)
    return frame * (seconds * 44100 // 1152)


def paper() -> bytes:
    """A tile of speckled paper, as PNG."""
    r = random.Random(901)
    image = Image.new("RGB", (64, 64), (233, 226, 201))
    for _ in range(160):
        shade = r.randrange(-7, 8)
        image.putpixel((r.randrange(64), r.randrange(64)), (233 + shade, 226 + shade, 201 + shade))
    out = io.BytesIO()
    image.save(out, "PNG", optimize=True)
    return out.getvalue()


def badge() -> bytes:
    return (
        b'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 80 80" width="80" height="80">'
        b'<circle cx="40" cy="40" r="36" fill="#22454f"/><path d="M16 52h48M24 44h26v-14h8v14" stroke="#e8d9b5" '
        b'stroke-width="5" fill="none"/></svg>'
    )


def leaflet(title: str) -> bytes:
    """A one-page PDF with a title."""
    text = f"BT /F1 24 Tf 72 720 Td ({title}) Tj ET".encode("latin-1")
    parts = [
        b"<< /Type /Catalog /Pages 2 0 R >>",
        b"<< /Type /Pages /Kids [3 0 R] /Count 1 >>",
        b"<< /Type /Page /Parent 2 0 R /MediaBox [0 0 612 792] /Contents 4 0 R /Resources << /Font << /F1 5 0 R >> >> "
        b">>",
        b"<< /Length %d >>\nstream\n%s\nendstream" % (len(text), text),
        b"<< /Type /Font /Subtype /Type1 /BaseFont /Helvetica >>",
    ]
    out = bytearray(b"%PDF-1.4\n")
    offsets = []
    for number, part in enumerate(parts, 1):
        offsets.append(len(out))
        out += b"%d 0 obj\n%s\nendobj\n" % (number, part)
    start = len(out)
    out += b"xref\n0 %d\n0000000000 65535 f \n" % (len(parts) + 1)
    for offset in offsets:
        out += b"%010d 00000 n \n" % offset
    out += b"trailer << /Size %d /Root 1 0 R >>\nstartxref\n%d\n%%%%EOF\n" % (len(parts) + 1, start)
    return bytes(out)
