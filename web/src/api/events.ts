/** The one event stream of a tab: closed while the tab is hidden, made anew when it falls silent. */
export type StreamState = "open" | "waiting";

export interface FerryEvent {
  crossing: number | null;
  job: number | null;
  at: string;
  text: string;
  data: Record<string, unknown>;
}

const QUIET = 12_000;

export function eventStream(
  kinds: string[],
  heard: (kind: string, event: FerryEvent) => void,
  state: (state: StreamState) => void,
): () => void {
  let source: EventSource | null = null;
  let timer = 0;
  let watch = 0;
  let last = "";
  let delay = 500;
  let ended = false;
  const alive = () => {
    clearTimeout(watch);
    watch = window.setTimeout(again, QUIET);
  };
  const rest = () => {
    clearTimeout(timer);
    clearTimeout(watch);
    source?.close();
    source = null;
  };
  function again() {
    rest();
    state("waiting");
    if (ended) return;
    timer = window.setTimeout(open, delay);
    delay = Math.min(delay * 2, 5_000);
  }
  function open() {
    const made = new EventSource(`/api/events${last ? `?after=${encodeURIComponent(last)}` : ""}`);
    source = made;
    made.onopen = () => {
      delay = 500;
      state("open");
      alive();
    };
    made.onerror = () => again();
    const note = (event: Event) => {
      const message = event as MessageEvent<string>;
      if (message.lastEventId) last = message.lastEventId;
      alive();
      return message.data;
    };
    made.addEventListener("hello", note);
    made.addEventListener("ping", alive);
    for (const kind of kinds)
      made.addEventListener(kind, (event) => heard(kind, JSON.parse(note(event)) as FerryEvent));
  }
  const seen = () => {
    if (document.visibilityState === "hidden") rest();
    else if (!source) {
      clearTimeout(timer);
      open();
    }
  };
  document.addEventListener("visibilitychange", seen);
  window.addEventListener("pagehide", rest);
  window.addEventListener("pageshow", seen);
  if (document.visibilityState !== "hidden") open();
  return () => {
    ended = true;
    rest();
    document.removeEventListener("visibilitychange", seen);
    window.removeEventListener("pagehide", rest);
    window.removeEventListener("pageshow", seen);
  };
}
