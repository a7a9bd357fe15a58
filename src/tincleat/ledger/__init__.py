"""The derived state of a project: joints, details and findings, rebuilt from the project and cached by content."""
