"""The render queue: jobs in a database, and the worker that carries them out.

``order`` is an export as a file can hold it, ``store`` the list, ``working`` carries it out. Free of Qt.
"""
