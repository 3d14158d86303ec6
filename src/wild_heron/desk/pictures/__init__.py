"""Pictures from the render process, and those that are kept."""
