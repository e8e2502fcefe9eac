"""The outside: fetching with manners, the start address, live checks."""
