"""A photograph made small, in a process of its own with a limit of memory: ``python -m workbench.shrink`` reads one and writes a JPEG.

What a stranger sends may be made to cost its reader anything; here it costs at most this. Nothing of what a camera writes beside the picture is kept.
"""

from __future__ import annotations

import io
import resource
import subprocess
import sys

from metrolex.errors import BadInput
from metrolex.limits import limit

__all__ = ["main", "shrunk"]

LONG_SIDE, QUALITY = 1600, 82
KINDS = ("JPEG", "PNG", "WEBP")


def shrunk(photo: bytes) -> bytes:
    """A photograph as a JPEG of at most 1600 by 1600 dots. Raises BadInput (field ``photo``)."""
    most = limit("photo", "bytes")
    if len(photo) > most:
        raise BadInput("photo", f"{len(photo)} bytes", f"at most {most / 1e6:.0f} MB")
    try:
        child = subprocess.run(
            [sys.executable, "-m", "workbench.shrink"],
            input=photo,
            capture_output=True,
            timeout=limit("apart", "seconds"),
            check=False,
        )
    except subprocess.TimeoutExpired:
        child = None
    if child is None or child.returncode or not child.stdout:
        raise BadInput(
            "photo", "a file", "a photograph: JPEG, PNG or WebP", "This is no photograph that can be read."
        )
    return child.stdout


def main() -> int:
    """Read from standard input, write to standard output; 1 for what is no photograph."""
    most = int(limit("apart", "megabytes")) * 1024 * 1024
    resource.setrlimit(resource.RLIMIT_AS, (most, most))
    from PIL import Image, ImageOps  # only in this process

    Image.MAX_IMAGE_PIXELS = int(limit("photo", "pixels"))
    try:
        with Image.open(io.BytesIO(sys.stdin.buffer.read()), formats=KINDS) as found:
            if found.width * found.height > limit("photo", "pixels"):
                return 1
            found.draft("RGB", (LONG_SIDE, LONG_SIDE))
            turned = ImageOps.exif_transpose(found).convert("RGB")
            turned.thumbnail((LONG_SIDE, LONG_SIDE))
            turned.save(sys.stdout.buffer, "JPEG", quality=QUALITY)
    except (OSError, ValueError, MemoryError, SyntaxError, Image.DecompressionBombError):
        return 1
    return 0


if __name__ == "__main__":
    sys.exit(main())
