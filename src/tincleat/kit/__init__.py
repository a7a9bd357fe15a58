"""The fitter's kit: families say what is wanted between which bodies, the kit finds where, whatever the slope, skew, roll or section."""
