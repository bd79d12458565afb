"""The core of Metrolex: the rules and arithmetic of fitting gauges and displays to vehicles.

Pure Python with numpy and scipy. It reads no database, no network and no clock; the only
files it opens are its own tables in ``metrolex/data``. SI units inside, named in every field.
"""
