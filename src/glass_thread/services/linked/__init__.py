"""Tracks that are made of others or follow them, and catch up."""
