"""The interface: Qt, and nothing that computes."""
