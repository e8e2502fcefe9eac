"""Items as files of a folder: profiles, headers, names."""
