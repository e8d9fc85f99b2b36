/**
 * Listens to the server's events until the function that it gives back is called. A browser gives
 * up for good where the answer was an error: after an outage it is asked anew, and told that it
 * has missed something.
 */
export function listenTo(
  url: string,
  on: Record<string, (data: string) => void>,
  missed?: () => void,
): () => void {
  let source: EventSource;
  let timer: number | undefined;
  let broken = false;
  const listen = () => {
    source = new EventSource(url);
    for (const [event, tell] of Object.entries(on))
      source.addEventListener(event, (e) => tell((e as MessageEvent<string>).data));
    source.onopen = () => {
      if (broken) missed?.();
      broken = false;
    };
    source.onerror = () => {
      broken = true;
      if (source.readyState === EventSource.CLOSED) timer = window.setTimeout(listen, 3000);
    };
  };
  listen();
  return () => {
    window.clearTimeout(timer);
    source.close();
  };
}
