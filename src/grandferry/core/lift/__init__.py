"""Lifting typed values out of pages."""
