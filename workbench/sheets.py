"""Lists to take away as CSV."""

from __future__ import annotations

import csv
from collections.abc import Iterable, Sequence

from django.http import HttpResponse
from django.utils.text import slugify

__all__ = ["csv_answer"]


def csv_answer(name: str, head: Sequence[str], rows: Iterable[Sequence[str]]) -> HttpResponse:
    """A download of rows under their headings; no cell is taken for a formula by a spreadsheet."""
    answer = HttpResponse(content_type="text/csv; charset=utf-8")
    answer["Content-Disposition"] = f'attachment; filename="{slugify(name) or "list"}.csv"'
    sheet = csv.writer(answer)
    sheet.writerow(head)
    for row in rows:
        sheet.writerow([f"'{cell}" if cell[:1] in ("=", "+", "-", "@") else cell for cell in row])
    return answer
