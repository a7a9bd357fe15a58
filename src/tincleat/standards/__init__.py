"""What the standards ask for, by clause: limits that families keep to and the proof measures against."""
