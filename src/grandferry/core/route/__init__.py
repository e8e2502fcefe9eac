"""Redirect maps, decisions, verdicts and fates."""
