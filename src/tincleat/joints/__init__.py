"""Where member ends meet: found from the members, never drawn by hand."""
