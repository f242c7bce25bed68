"""IEC 60364 rule book with its BS 7671 and AS/NZS variants: tables and one pure function per clause."""
