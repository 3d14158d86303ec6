"""Attacks from outside: broken and hostile scenes and artwork. ``make fuzz N=…`` runs many, a test a few."""
