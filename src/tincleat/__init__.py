"""Tin Cleat: steel connections placed, drawn and proved across a steel model.

Inside the program lengths are millimetres, forces newtons, angles radians, masses kilograms; frames are
right-handed with Z up and numbers are float64.  Text is turned into numbers, and back, only at the edges
(:mod:`tincleat.units`).
"""

__version__ = "0.1.0"
