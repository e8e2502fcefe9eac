"""Pictures made anew on their way: smaller, or in another form. The originals are never touched."""

from __future__ import annotations

import io
import warnings
from typing import NamedTuple

from ..errors import FerryError
from .said import Remake

MOST = 40_000_000  # pixels of a picture that is made anew
# types that are made anew -> what they stay, or become where no other form is wanted
_STAYS = {"image/jpeg": "image/jpeg", "image/png": "image/png", "image/webp": "image/webp", "image/bmp": "image/png"}
ENDINGS = {"image/jpeg": "jpg", "image/png": "png", "image/webp": "webp"}


class CannotRemake(FerryError):
    """A picture cannot be made anew."""


class Becomes(NamedTuple):
    """What a picture is made into: its type, and the pixels of its longer side at the most (0: as many as it has)."""

    mime: str
    widest: int


def becomes(remake: Remake, mime: str, width: int, height: int) -> Becomes | None:
    """What a picture is made into; None for what goes over as it is."""
    if mime not in _STAYS or not width or width * height > MOST:
        return None
    widest = remake.widest if remake.widest and max(width, height) > remake.widest else 0
    wanted = "image/webp" if remake.form == "webp" else _STAYS[mime] if widest else mime
    return Becomes(wanted, widest) if widest or wanted != mime else None


def with_ending(name: str, mime: str) -> str:
    """A file's name with the ending of a type, in place of that of another picture."""
    stem, dot, ending = name.rpartition(".")
    wanted = ENDINGS[mime]
    if not dot or not stem or "/" in ending:
        return f"{name}.{wanted}"
    same = {"jpg", "jpeg", "jpe", "jfif"} if wanted == "jpg" else {wanted}
    return name if ending.lower() in same else f"{stem}.{wanted}"


def remade(content: bytes, into: Becomes, quality: int) -> bytes:
    """A picture made anew: turned as it says it is to be seen, with its colour profile, without the rest of what it
    says of itself (where and with what it was taken). Moving pictures go on moving. The same bytes give the same bytes.
    Raises CannotRemake."""
    from PIL import Image, ImageOps, ImageSequence

    try:
        with warnings.catch_warnings(), Image.open(io.BytesIO(content)) as picture:
            warnings.simplefilter("ignore")
            many = getattr(picture, "n_frames", 1) > 1
            profile = picture.info.get("icc_profile")
            lossless = picture.format in ("PNG", "BMP")
            times = [frame.info.get("duration", 100) for frame in ImageSequence.Iterator(picture)] if many else []
            frames = []
            for frame in ImageSequence.Iterator(picture) if many else [picture]:
                whole = ImageOps.exif_transpose(frame)
                if into.widest:
                    if whole.mode == "P":
                        whole = whole.convert("RGBA" if "transparency" in whole.info else "RGB")
                    whole.thumbnail((into.widest, into.widest), Image.Resampling.LANCZOS)
                frames.append(whole.copy())
            out = io.BytesIO()
            first = frames[0]
            said: dict[str, object] = {"icc_profile": profile} if profile else {}
            if many:
                said |= {"save_all": True, "append_images": frames[1:], "duration": times, "loop": 0}
            if into.mime == "image/jpeg":
                if first.mode not in ("RGB", "L", "CMYK"):
                    first = first.convert("RGB")
                first.save(out, "JPEG", quality=quality, optimize=True, progressive=True, exif=b"", **said)
            elif into.mime == "image/webp":
                if first.mode not in ("RGB", "RGBA"):
                    clear = "A" in first.mode or "transparency" in first.info
                    first = first.convert("RGBA" if clear else "RGB")
                first.save(out, "WEBP", quality=quality, lossless=lossless, method=4, exif=b"", **said)
                if lossless and into.widest:  # what was drawn sharp is no longer so once it is smaller
                    other = io.BytesIO()
                    first.save(other, "WEBP", quality=quality, method=4, exif=b"", **said)
                    out = min(other, out, key=lambda one: len(one.getvalue()))
            else:
                first.save(out, "PNG", optimize=True, exif=b"", **said)
            return out.getvalue()
    except (
        OSError,
        SyntaxError,
        ValueError,
        EOFError,
        OverflowError,
        MemoryError,
        Image.DecompressionBombError,
    ) as why:
        raise CannotRemake(
            f"The picture cannot be made anew: {str(why)[:200] or type(why).__name__}.",
            "Let it go over as it is (Media, the file).",
        ) from None
