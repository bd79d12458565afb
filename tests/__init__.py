import metrolex  # noqa: F401  one thread of linear algebra, before numpy loads
