"""``python -m metrolex.cli NAME``."""

import os
import sys

from metrolex.cli import main

try:
    code = main()
    sys.stdout.flush()
except BrokenPipeError:  # whoever read us has had enough: no complaint, no traceback
    os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
    code = 0
sys.exit(code)
