"""What a family makes at a joint: plates, bolts, welds, rods, cuts, and the solids they are."""
