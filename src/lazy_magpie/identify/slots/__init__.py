"""Fields of a file from its words: each word of its path is given a slot, all of them together.

A name is cut into `words`. What each looks like, means, where it stands, what the folders above are taken for and what
the names beside it have in common (`evidence`) is scored by fitted weights, and one chain over all words of the path
(`chain`) finds the best reading and draws others by their probability. `reading` makes fields of them: what most of
the readings say is how sure it is. `kinds` says which fields the slots of each kind fill.
"""
