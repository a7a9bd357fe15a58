"""Loose parts: what no family covers, laid on a member part by part, each with settings of its own."""
