"""The demo site: Quillmere Gardens. Everything in it is made up."""
