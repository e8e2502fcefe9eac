"""Plans as folders and files, and their stages one after the other."""
