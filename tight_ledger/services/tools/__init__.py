"""Tools: the crib, calibration, what a doubtful check puts in question."""
