"""The order of the work: the vehicle is taken apart once."""

from metrolex.workorder.order import Ordered, Placed, order_steps
from metrolex.workorder.step import Step

__all__ = ["Ordered", "Placed", "Step", "order_steps"]
