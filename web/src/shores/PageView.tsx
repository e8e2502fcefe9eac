/** A captured page in its sandbox on the preview's own origin: marks, clicks and scroll over a private port. */
import { useEffect, useRef, useState } from "react";
import { previewOrigin } from "../api/client";

export interface Mark {
  node: number;
  as: "field" | "chosen";
  says?: string;
}

interface Props {
  path: string;
  title: string;
  marks?: Mark[];
  show?: number;
  onPick?: (node: number) => void;
  onScroll?: (part: number) => void;
  scroll?: { part: number; by: number };
  small?: boolean;
  /** laid out at so many px, and drawn as wide as there is room */
  wide?: number;
}

const DRAWN = 900; // px a small view is laid out at before it is drawn smaller

const isNumber = (value: unknown): value is number => typeof value === "number" && Number.isFinite(value);

export function PageView({ path, title, marks, show, onPick, onScroll, scroll, small, wide }: Props) {
  const frame = useRef<HTMLIFrameElement>(null);
  const port = useRef<MessagePort | null>(null);
  const held = useRef({ onPick, onScroll, marks, show });
  useEffect(() => {
    held.current = { onPick, onScroll, marks, show };
  });
  const send = (message: unknown) => port.current?.postMessage(message);
  const dress = () => {
    send({ what: "marks", marks: (held.current.marks ?? []).map((m) => [m.node, m.as, m.says]) });
    if (held.current.show !== undefined) send({ what: "show", n: held.current.show });
  };
  const loaded = () => {
    port.current?.close();
    const channel = new MessageChannel();
    port.current = channel.port1;
    channel.port1.onmessage = (event: MessageEvent<unknown>) => {
      const message = event.data as { what?: unknown; n?: unknown; at?: unknown } | null;
      if (message?.what === "ready") dress();
      else if (message?.what === "pick" && isNumber(message.n)) held.current.onPick?.(message.n);
      else if (message?.what === "scroll" && isNumber(message.at)) held.current.onScroll?.(message.at);
    };
    // a sandboxed page has no origin that could be named
    frame.current?.contentWindow?.postMessage({ what: "port" }, "*", [channel.port2]);
  };
  const key = JSON.stringify([marks, show]);
  useEffect(dress, [key]);
  useEffect(() => {
    if (scroll) send({ what: "scroll", at: scroll.part });
  }, [scroll]);
  useEffect(() => () => port.current?.close(), []);
  const box = useRef<HTMLDivElement>(null);
  const [[width, height], setSize] = useState([DRAWN, DRAWN]);
  useEffect(() => {
    const el = box.current;
    if (!el) return;
    const watch = new ResizeObserver(() => setSize([el.clientWidth, el.clientHeight]));
    watch.observe(el);
    return () => watch.disconnect();
  }, []);
  const laid = wide ?? (small ? DRAWN : 0);
  const scale = width / (laid || 1);
  const drawn = laid ? { width: laid, height: height / scale, transform: `scale(${scale})` } : undefined;
  const page = (
    <iframe
      ref={frame}
      className="page"
      title={title}
      sandbox="allow-scripts"
      referrerPolicy="no-referrer"
      src={previewOrigin() + path}
      onLoad={loaded}
      style={drawn}
    />
  );
  return laid ? (
    <div className="small" ref={box}>
      {page}
    </div>
  ) : (
    page
  );
}
