"""Timings, run on demand and reported as ratios; never a pass or fail.

.venv/bin/pytest tests/benchmarks/bench_twin.py
.venv/bin/python -m tests.benchmarks.bench_pages       (after bin/test has made the test cluster)
"""
