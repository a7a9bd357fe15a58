"""Kinds of connection.  Each family is one file: settings declared once, and a pure build."""
