"""The web application: accounts, storage, pages, drawings, exports. The rules are in ``metrolex``."""
