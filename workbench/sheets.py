"""Lists to take away as CSV."""

from __future__ import annotations

import csv
import re
from collections.abc import Iterable, Sequence

from django.http import HttpResponse
from django.utils.text import slugify

__all__ = ["csv_answer"]

_NUMBER = re.compile(r"[-+]?[0-9]+([.][0-9]+)?")


#: What a spreadsheet takes for the beginning of a formula, also in its wide forms and behind a tab or the end of a line.
_FORMULA = ("=", "+", "-", "@", "\t", "\r", "\n", "＝", "＋", "－", "＠")


def _plain(cell: str) -> str:
    """A cell that no spreadsheet takes for a formula; a number stays one."""
    if not cell.lstrip(" ").startswith(_FORMULA) or _NUMBER.fullmatch(cell):
        return cell
    return f"'{cell}"


def csv_answer(name: str, head: Sequence[str], rows: Iterable[Sequence[str]]) -> HttpResponse:
    """A download of rows under their headings; no cell is taken for a formula by a spreadsheet."""
    answer = HttpResponse(content_type="text/csv; charset=utf-8")
    answer["Content-Disposition"] = f'attachment; filename="{slugify(name) or "list"}.csv"'
    sheet = csv.writer(answer)
    sheet.writerow(head)
    for row in rows:
        sheet.writerow([_plain(cell) for cell in row])
    return answer
