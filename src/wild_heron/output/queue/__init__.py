"""Outputs that are made one after another: a list on disk, and what works through it.

``order`` is an export as a file can hold it, ``store`` the list, ``working`` carries it out. Free of Qt.
"""
