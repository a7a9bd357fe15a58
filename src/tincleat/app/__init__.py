"""The window.  Qt and VTK live here and nowhere else."""
