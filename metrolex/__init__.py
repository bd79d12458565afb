"""The core of Metrolex: the rules and arithmetic of fitting gauges and displays to vehicles.

Pure Python with numpy and scipy. It reads no database, no network and no clock; the only
files it opens are its own tables in ``metrolex/data``. SI units inside, named in every field.
"""

import os

# The circuits have about a hundred nodes: a second thread of the linear algebra costs as much again and gains nothing. It
# reads this when numpy loads, so it stands before anything else.
for _name in ("OPENBLAS_NUM_THREADS", "OMP_NUM_THREADS", "MKL_NUM_THREADS"):
    os.environ.setdefault(_name, "1")
