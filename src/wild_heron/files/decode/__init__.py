"""Decoders of files from strangers. They run in the reader process alone: see ``files/reader``."""
