"""A member's steel by value: its section, the cuts it has, and the body that is left."""
