"""Items that come from files instead of pages: feeds, export files of blogs, tables."""
