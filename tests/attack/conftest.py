"""The bays of the web tests, for attacks on their pages."""

from tests.at_once import papers_at_once  # noqa: F401
from tests.web.conftest import bay, client_factory, other_bay  # noqa: F401
from tests.web.test_one_door import mate  # noqa: F401
