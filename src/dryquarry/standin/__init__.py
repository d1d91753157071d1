"""The stand-in: a simulated model service on loopback, and the demo workspace."""
