"""What the wrenches of a crib reach of a shop's figures. Uses NumPy; off the run path."""
