"""Dialogs: scene settings, export, missing artwork, shortcuts."""
