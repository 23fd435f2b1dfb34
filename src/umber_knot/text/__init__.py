"""What texts say: paragraphs, sentences, words with their lemmas, and the terms they are made of.
Takes a record's title, abstract and passages; gives terms with the place of each mention.
Knows no network; the same text gives the same terms on any machine."""
