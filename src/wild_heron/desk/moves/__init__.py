"""Moves in the desk: the library, their small films, and putting them on subjects."""
