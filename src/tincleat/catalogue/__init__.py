"""Facts of the trade as data files with their sources, and typed lookups on them."""
