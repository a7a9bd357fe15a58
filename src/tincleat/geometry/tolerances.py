"""Every geometric tolerance of the program, in one place (mm, rad, or as stated)."""

ON_FACE = 0.1  # a point this near a face touches it
MEETS = 10.0  # a member end this near another member's body meets it
NEARLY_MEETS = 200.0  # further than MEETS but this near: told to the user as a near miss
PARALLEL = 1e-6  # |sin| of the angle between parallel directions
KIN_LENGTH = 0.01  # mm step to which joint geometry is rounded before comparing
KIN_DIRECTION = 1e-5  # step for direction cosines
ARC_SAGITTA = 0.02  # greatest deviation of a polygon from the arc it stands for, proof
FEATURE_ANGLE = 0.45  # rad: mesh edges sharper than this are drawn
