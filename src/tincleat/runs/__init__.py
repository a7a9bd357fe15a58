"""Runs: parametric rows of members laid on others."""
