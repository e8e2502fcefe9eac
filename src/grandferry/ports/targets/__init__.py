"""Where content goes: systems (``known.py`` lists them), sheets and archives."""
