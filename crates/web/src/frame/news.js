// Which plan a page is of, and its live changes: one stream a browser. The tab that holds the lock listens and passes on to the others.

/** The plan that the page was made of: the number of a draft, 0 for the live plan. */
export const plan = document.querySelector("[data-plan]")?.dataset.plan ?? "0";

/** Fetches what belongs to the page's plan; the server refuses where the session works in another one by now. */
export const ask = (address, options) =>
  fetch(address, { ...options, headers: { "x-requested-with": "fetch", "snug-plan": plan } });

/** The latest change that was heard of. */
let latest = 0;
export const heard = (revision) => (latest = Math.max(latest, revision ?? 0));

const TRIES = 5;
/** Before a server that refused to tell news is asked again, in milliseconds. */
const PAUSE = 5000;

/** Whether the session has ended; a server that does not answer does not say so. */
async function isSignedOut() {
  try {
    return new URL((await fetch("/me")).url).pathname === "/sign-in";
  } catch {
    return false;
  }
}

/** Fetches a part of a page; null when it cannot be had. An answer that is older than what was heard of while it was under way is
 *  asked for again, lest it take the place of a newer one. */
export async function part(path) {
  let text = null;
  for (let tries = 0; tries < TRIES; tries++) {
    if (tries) await new Promise((go) => setTimeout(go, 50 * tries));
    try {
      const response = await ask(path);
      if (response.redirected && response.url.includes("/sign-in")) location.assign("/sign-in");
      if (!response.ok) return null;
      text = await response.text();
      if (Number(response.headers.get("snug-revision")) >= latest) return text;
    } catch {
      return null;
    }
  }
  return text;
}

/** Calls `then` with each piece of news: `{kind: "hello"|"change"|"reload"|"presence", fresh, revision?, people?, name?, tab?}`; it is
 *  fresh if it tells of a change that came after `revision`, on which the page was made, and was not told before. */
export function follow(revision, then) {
  const tell = (message) => {
    if (message.kind === "ended") return document.dispatchEvent(new Event("session-ended"));
    const anew = message.kind === "reload";
    const fresh = anew || message.revision > revision;
    // What is to be read anew may be older than what was heard of: a database can lose its last entries.
    if (anew) latest = revision = message.revision;
    heard(message.revision);
    revision = Math.max(revision, message.revision ?? 0);
    then({ ...message, fresh });
  };
  const listen = (pass) => {
    const source = new EventSource(`/events?in-plan=${plan}`);
    source.addEventListener("change", (event) => pass({ kind: "change", ...JSON.parse(event.data) }));
    source.addEventListener("hello", (event) => pass({ kind: "hello", revision: Number(event.data) }));
    source.addEventListener("presence", (event) => pass({ kind: "presence", ...JSON.parse(event.data) }));
    source.addEventListener("error", async () => {
      // A connection that is lost is made anew by itself; one that is refused is not.
      if (source.readyState !== EventSource.CLOSED) return;
      if (await isSignedOut()) return pass({ kind: "ended" });
      setTimeout(() => listen(pass), PAUSE);
    });
    source.addEventListener("reload", (event) => pass({ kind: "reload", revision: Number(event.data) }));
  };
  if (!navigator.locks) return listen(tell);
  const name = `snug-news-${plan}`;
  const channel = new BroadcastChannel(name);
  channel.addEventListener("message", (event) => tell(event.data));
  navigator.locks.request(name, () => {
    listen((message) => {
      channel.postMessage(message);
      tell(message);
    });
    return new Promise(() => {});
  });
}
