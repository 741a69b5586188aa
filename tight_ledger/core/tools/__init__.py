"""Wrenches and their scales, what goes on a wrench's end, gauges, jacks and stands, shims, calibrations."""
