"""``python -m metrolex.cli NAME``."""

import sys

from metrolex.cli import main

sys.exit(main())
