"""Jobs: what each is given, the worker that does them, its pool of children."""
