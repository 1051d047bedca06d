const NAME = 'herzschlag-plans';

let channel: BroadcastChannel | undefined;

/** Tells the other tabs that a plan was stored or deleted. */
export function announce(plan: string): void {
  if (typeof BroadcastChannel === 'undefined') return;
  channel ??= new BroadcastChannel(NAME);
  channel.postMessage(plan);
}

/** Listens to what other tabs do with a plan; gives a function that ends it. */
export function listen(plan: string, heard: () => void): () => void {
  if (typeof BroadcastChannel === 'undefined') return () => undefined;
  const own = new BroadcastChannel(NAME);
  own.onmessage = (event: MessageEvent<unknown>) => {
    // A tab does not hear its own channel, but hears itself on another one.
    if (event.data === plan) heard();
  };
  return () => own.close();
}
