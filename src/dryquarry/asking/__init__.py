"""Entrants, the wire protocol, and the engine that asks."""
