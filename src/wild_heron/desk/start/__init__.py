"""What an empty scene offers in place of the Lens: artwork, recent scenes, examples and lessons."""

from .start_page import RecentScene, StartPage, Told

__all__ = ["RecentScene", "StartPage", "Told"]
