"""REST under /api. One router a stage."""
