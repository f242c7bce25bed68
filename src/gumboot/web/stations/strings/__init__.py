"""Strings: the roof, its layouts, and every string against its inputs."""
