"""The window around it all: start and end, files, menus, dialogs opened."""
