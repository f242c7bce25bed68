"""North American rule book: NEC 2023 equations and tables for copper conductors."""
