/** How far a review is on the server. */
export interface Pulse {
  id: string;
  seq: number;
  pulse: number;
  /** Of its stills alone. */
  stills: number;
  removed: boolean;
}

/** What stands between this page and the server. */
export type Link = "live" | "lost" | "database away" | "signed out";

export interface Listener {
  pulse: (news: Pulse) => void;
  /** News may have been missed: everything that is shown should be fetched again. */
  missed: () => void;
}

type Said = { pulses: Pulse[] } | { link: Link; missed: boolean } | { hello: true };

const FIRST_PAUSE = 500;
const LONGEST_PAUSE = 8000;
const NAME = "usual-lamp-feed";

/**
 * News of all reviews for all tabs of this browser, over a single stream: whoever holds the lock listens and tells the
 * others, since a browser opens only six connections to a host. A stream that breaks is opened again, for as long as it
 * takes, and the page says so meanwhile.
 */
export class Feed {
  private listeners = new Set<Listener>();
  private watchers = new Set<(link: Link) => void>();
  private known = new Map<string, Pulse>();
  private channel?: BroadcastChannel;
  private leads = false;
  link: Link = "live";

  listen(listener: Listener): () => void {
    this.start();
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  }

  /** Called with every change of the link. */
  watch(watcher: (link: Link) => void): () => void {
    this.start();
    this.watchers.add(watcher);
    return () => this.watchers.delete(watcher);
  }

  private start() {
    if (this.channel) return;
    this.channel = new BroadcastChannel(NAME);
    this.channel.onmessage = (message) => this.hear(message.data as Said);
    this.channel.postMessage({ hello: true } satisfies Said);
    navigator.locks
      .request(NAME, () => {
        this.leads = true;
        this.open(0);
        return new Promise<void>(() => {});
      })
      .catch(() => undefined);
  }

  private tell(said: Said) {
    this.channel?.postMessage(said);
    this.hear(said);
  }

  private hear(said: Said) {
    if ("hello" in said) {
      if (this.leads) this.channel?.postMessage({ link: this.link, missed: false } satisfies Said);
    } else if ("pulses" in said) {
      for (const pulse of said.pulses) for (const listener of this.listeners) listener.pulse(pulse);
    } else {
      if (said.missed) for (const listener of this.listeners) listener.missed();
      if (said.link === this.link) return;
      this.link = said.link;
      for (const watcher of this.watchers) watcher(said.link);
    }
  }

  private open(failures: number) {
    const source = new EventSource("/api/events");
    let tries = failures;
    source.onopen = () => {
      // What happened before the first stream was fetched by those who asked; after a break it may be old.
      this.tell({ link: "live", missed: tries > 0 });
      tries = 0;
    };
    source.addEventListener("pulses", (event) => {
      const rows = JSON.parse((event as MessageEvent<string>).data) as [
        string,
        number,
        number,
        number,
        boolean,
      ][];
      const pulses = rows.map(([id, seq, pulse, stills, removed]) => ({ id, seq, pulse, stills, removed }));
      const fresh = pulses.filter((one) => !same(one, this.known.get(one.id)));
      for (const one of fresh) this.known.set(one.id, one);
      if (fresh.length) this.tell({ pulses: fresh });
    });
    source.addEventListener("away", (event) => {
      const away = JSON.parse((event as MessageEvent<string>).data) as boolean;
      this.tell({ link: away ? "database away" : "live", missed: !away });
    });
    source.onerror = () => {
      // The browser itself only tries again after some kinds of failure.
      source.close();
      this.tell({ link: "lost", missed: false });
      setTimeout(() => this.again(tries + 1), pauseAfter(tries));
    };
  }

  private async again(failures: number) {
    const status = await fetch("/api/health").then(
      (reply) => reply.status,
      () => 0,
    );
    if (status === 401) this.tell({ link: "signed out", missed: false });
    if (status === 200) this.open(failures);
    else setTimeout(() => this.again(failures + 1), pauseAfter(failures));
  }
}

/** Milliseconds before the next try: longer each time, and not the same for all browsers. */
export function pauseAfter(failures: number): number {
  return Math.min(LONGEST_PAUSE, FIRST_PAUSE * 2 ** failures) * (0.75 + 0.25 * Math.random());
}

function same(a: Pulse, b: Pulse | undefined): boolean {
  if (b === undefined) return false;
  return a.seq === b.seq && a.pulse === b.pulse && a.stills === b.stills && a.removed === b.removed;
}

export const feed = new Feed();
