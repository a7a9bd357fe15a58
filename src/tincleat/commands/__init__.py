"""Every change to a project is a command: a name, declared arguments, and a function that returns changes."""
