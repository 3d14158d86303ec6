"""The open scene: what it is, what is selected, where the playhead is, and how it is changed."""
