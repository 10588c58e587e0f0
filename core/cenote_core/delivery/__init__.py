"""What a site consists of for others: a list that knows no file format. Kinds fill it, formats write it."""
