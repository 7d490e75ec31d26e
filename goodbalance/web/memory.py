"""What a process keeps of what it has worked out: bounded, locked, and never needed, for any process can work it out again."""

import threading
from collections.abc import Callable, Hashable
from typing import Generic, TypeVar

from cachetools import LRUCache

Key = TypeVar("Key", bound=Hashable)
Value = TypeVar("Value")


class Memory(Generic[Key, Value]):
    """Values by key, at most so many; those not asked for longest are forgotten.

    A key names all that a value hangs on: the head of a record, or survey and choices as text.
    """

    def __init__(self, most: int) -> None:
        self._kept: LRUCache[Key, Value] = LRUCache(most)
        self._lock = threading.Lock()

    def once(self, key: Key, make: Callable[[], Value]) -> Value:
        """The value of a key, worked out where it is not known."""
        found = self.get(key)
        if found is None:
            found = make()  # outside the lock: it may take long
            self.put(key, found)
        return found

    def get(self, key: Key) -> Value | None:
        with self._lock:
            return self._kept.get(key)

    def put(self, key: Key, value: Value) -> None:
        with self._lock:
            self._kept[key] = value

    def take(self, key: Key) -> Value | None:
        """The value, which is forgotten here: whoever takes it may change it."""
        with self._lock:
            return self._kept.pop(key, None)
