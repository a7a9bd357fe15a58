"""What the user drew and decided: members, grids, levels, connections, house rules; kept in one SQLite file."""
