"""Files: the project file, autosaves, pictures, and where artwork lies."""
