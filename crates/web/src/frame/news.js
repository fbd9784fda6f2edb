// Live changes: one stream a browser. The tab that holds the lock listens and passes on to the others.

/** Calls `tell` with each piece of news: `{kind: "hello"|"change"|"reload"|"presence", revision?, people?, name?, tab?}`. */
export function follow(tell) {
  const listen = (pass) => {
    const source = new EventSource("/events");
    source.addEventListener("change", (event) => pass({ kind: "change", ...JSON.parse(event.data) }));
    source.addEventListener("hello", (event) => pass({ kind: "hello", revision: Number(event.data) }));
    source.addEventListener("presence", (event) => pass({ kind: "presence", ...JSON.parse(event.data) }));
    source.addEventListener("reload", () => pass({ kind: "reload" }));
  };
  if (!navigator.locks) return listen(tell);
  const channel = new BroadcastChannel("snug-news");
  channel.addEventListener("message", (event) => tell(event.data));
  navigator.locks.request("snug-news", () => {
    listen((message) => {
      channel.postMessage(message);
      tell(message);
    });
    return new Promise(() => {});
  });
}
