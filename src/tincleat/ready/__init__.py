"""Make an engineer's frame fit to detail: true up, stock lengths, comparison with a revised model."""
