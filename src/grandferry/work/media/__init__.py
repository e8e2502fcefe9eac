"""Files over the whole crossing: what a person says of them, and whether they suit what they are for."""
