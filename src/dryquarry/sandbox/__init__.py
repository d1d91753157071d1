"""Running what a reply holds: nothing comes in or goes out but what is handed over, and nothing outlives its time."""
