"""Reading captured answers: references, facts, robots rules."""
