"""Made-up projects to try the program on, built by the program's own commands."""
