"""The web application: accounts, storage, pages, drawings, exports. The rules are in ``metrolex``."""

import metrolex  # noqa: F401  it sets the linear algebra to one thread, before numpy loads
