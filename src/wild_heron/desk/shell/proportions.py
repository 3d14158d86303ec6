"""What is known of the window before anything is loaded: its menus' titles, and how large its areas are."""

MENUS = {
    "scene": "&Scene", "edit": "&Edit", "set": "Se&t", "camera": "&Camera", "rig": "&Rig", "keys": "Ke&ys",
    "ease": "E&ase", "film": "&Film", "life": "&Life", "check": "Chec&k", "play": "&Play", "view": "&View",
    "output": "&Output", "help": "&Help",
}  # fmt: skip
"""By the first word of their actions' names."""
TOP, FOOT = 44, 24
"""Heights of the top bar and the status line."""
LEFT, RIGHT, LOWER = 204, 360, 236
"""Widths of the areas beside the Lens and the height of Lanes, until they are dragged to others."""
