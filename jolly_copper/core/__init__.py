"""Pure computation: no web, no SQL, no files. Same document in, same facts out, byte for byte."""
