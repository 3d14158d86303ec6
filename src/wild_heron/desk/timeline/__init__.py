"""The bottom of the window, on one time axis: lanes, curves, eases."""
