"""What is handed over: bills and sheets."""
