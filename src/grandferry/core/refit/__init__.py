"""HTML to blocks, blocks to Markdown, HTML, JSON and text, and the account of what was lost."""
