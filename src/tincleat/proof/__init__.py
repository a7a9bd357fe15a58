"""Checks of a detail from its shapes.  A rule is a pure function of an assembled detail and the house rules."""
