"""Rule books: tables as data files with their source, and one pure function per clause."""
