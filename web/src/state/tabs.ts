const NAME = 'herzschlag-plans';

let channel: BroadcastChannel | undefined;
const here = new Set<() => void>();

/** Tells the other tabs, and the lists of this one, that a plan was stored or deleted. */
export function announce(plan: string): void {
  here.forEach((heard) => heard());
  if (typeof BroadcastChannel === 'undefined') return;
  channel ??= new BroadcastChannel(NAME);
  channel.postMessage(plan);
}

function listenTo(heard: (plan: unknown) => void): () => void {
  if (typeof BroadcastChannel === 'undefined') return () => undefined;
  const own = new BroadcastChannel(NAME);
  own.onmessage = (event: MessageEvent<unknown>) => heard(event.data);
  return () => own.close();
}

/** Listens to what happens to a plan, in this tab or another; gives a function that ends it. */
export function listen(plan: string, heard: () => void): () => void {
  return listenTo((said) => {
    if (said === plan) heard();
  });
}

/** Listens to what happens to any plan, in this tab or another; gives a function that ends it. */
export function listenToAll(heard: () => void): () => void {
  here.add(heard);
  const end = listenTo(heard);
  return () => {
    here.delete(heard);
    end();
  };
}
