"""Prove: dead, earthed, insulated, and no wire forgotten, before anything is let on."""
