"""One module a format, in and out."""
