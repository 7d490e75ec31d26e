// What was typed and is not yet acknowledged, kept in this browser (IndexedDB) until the server has answered for it.
// Items have an id of their own: whatever else happens meanwhile, only that very item is changed or taken away.

const NAME = "goodbalance", TABLE = "unsaved";
const inMemory = new Map(); // items this browser could not store: they live as long as the page
let opened;

function open() {
  opened ??= new Promise((done, fail) => {
    const asked = indexedDB.open(NAME, 1);
    asked.onupgradeneeded = () => asked.result.createObjectStore(TABLE, { keyPath: "id" });
    asked.onsuccess = () => {
      asked.result.onversionchange = () => { asked.result.close(); opened = undefined; };
      done(asked.result);
    };
    asked.onerror = () => fail(asked.error);
    asked.onblocked = () => fail(new Error("blocked"));
  });
  return opened;
}

async function act(mode, what) {
  const table = (await open()).transaction(TABLE, mode).objectStore(TABLE);
  return new Promise((done, fail) => {
    const asked = what(table);
    table.transaction.oncomplete = () => done(asked.result);
    table.transaction.onabort = () => fail(table.transaction.error);
    asked.onerror = () => fail(asked.error);
  });
}

// Keeps an item. False where this browser has no room or no store for it: it is then held by the page alone.
export async function keep(item) {
  try {
    await act("readwrite", (table) => table.put(item));
    inMemory.delete(item.id);
    return true;
  } catch {
    inMemory.set(item.id, item);
    return false;
  }
}

export async function drop(id) {
  inMemory.delete(id);
  try { await act("readwrite", (table) => table.delete(id)); } catch { /* it was never stored */ }
}

// All items in the order they were made.
export async function all() {
  let stored = [];
  try { stored = await act("readonly", (table) => table.getAll()); } catch { /* the page's own are all there is */ }
  const known = new Map([...stored, ...inMemory.values()].map((item) => [item.id, item]));
  return [...known.values()].sort((a, b) => a.made_at - b.made_at || a.number - b.number);
}
