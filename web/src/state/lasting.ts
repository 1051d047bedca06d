import { useEffect, useState } from 'react';

/** Whether the browser keeps what it stores here for good; undefined until it is known. */
export function useLasting(): { lasting: boolean | undefined; ask: () => void } {
  const [lasting, setLasting] = useState<boolean>();
  const take = (asked: Promise<boolean> | undefined): void => {
    // A browser that does not say may discard it.
    (asked ?? Promise.resolve(false)).then(setLasting, () => setLasting(false));
  };
  useEffect(() => take(storage()?.persisted()), []);
  return { lasting, ask: () => take(storage()?.persist()) };
}

function storage(): StorageManager | undefined {
  // It is missing where the page did not come over a secure connection.
  return (navigator as { storage?: StorageManager }).storage;
}
