"""Django's SQLite backend, with a doorbell: who waits for the writer is heard by who holds it again and again."""
