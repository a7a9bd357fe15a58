"""Shapes without steel words: frames, 2D outlines with true arcs, meshes, hidden lines."""
