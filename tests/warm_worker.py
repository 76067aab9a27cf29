"""Loaded once by the server that the worker processes of tests are forked from, so that none has to load its libraries again."""

from riktig.desk.process import load_libraries

load_libraries()
