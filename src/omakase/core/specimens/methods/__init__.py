"""Reduction methods: one file each, see ``registry``."""
