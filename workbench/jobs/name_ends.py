"""What tells two like readings, or two like senders, apart: offered behind a name."""

NAME_ENDS = (
    "left",
    "right",
    "front",
    "rear",
    "in",
    "out",
    "left bank",
    "right bank",
    "cylinder 1",
    "cylinder 2",
    "front axle",
    "rear axle",
    "left hub",
    "right hub",
    "outside",
    "cabin",
)
