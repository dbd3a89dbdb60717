"""The rule language: document, compile, evaluate, explain, sentence, checks and time plan."""
