"""What an installation and its sites are made of, and the verbs that set it up: one file a sort of thing.

A sort is a document, whose form the page draws, and verbs that save and retire. Page, API, import of tables and the demo's
own loading all go through them.
"""
