"""The measurements behind docs/performance.md: ``make bench``. Ratios are taken within one run, of medians."""
