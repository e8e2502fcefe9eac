"""The demo: an old site and a new system, both made up. An outside system: it uses nothing of the tool."""
