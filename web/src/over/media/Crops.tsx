/** A picture with the place that crops keep in view, set by a click or by the arrow keys, and how it looks when cropped. */
import { useRef, type KeyboardEvent, type MouseEvent } from "react";

const SHAPES = ["1:1", "16:9", "3:4"];
const MIDDLE = [50, 50] as const;

function place(focus: string): readonly [number, number] {
  const found = /^([\d.]+)% ([\d.]+)%$/.exec(focus);
  return found ? [Number(found[1]), Number(found[2])] : MIDDLE;
}

const within = (n: number) => Math.round(Math.min(100, Math.max(0, n)));

export function Crops({
  src,
  focus,
  shape,
  onFocus,
}: {
  src: string;
  focus: string;
  shape: string;
  onFocus: (focus: string) => void;
}) {
  const picture = useRef<HTMLImageElement>(null);
  const [across, down] = place(focus);
  const put = (x: number, y: number) => onFocus(`${within(x)}% ${within(y)}%`);
  const click = (e: MouseEvent) => {
    const box = picture.current?.getBoundingClientRect();
    if (box?.width) put(((e.clientX - box.left) / box.width) * 100, ((e.clientY - box.top) / box.height) * 100);
  };
  const key = (e: KeyboardEvent) => {
    const step = { ArrowLeft: [-5, 0], ArrowRight: [5, 0], ArrowUp: [0, -5], ArrowDown: [0, 5] }[e.key];
    if (!step) return;
    e.preventDefault();
    put(across + (step[0] ?? 0), down + (step[1] ?? 0));
  };
  return (
    <div className="crops">
      <button
        type="button"
        className="focus"
        aria-label={`The place that crops keep: ${focus || "the middle"}. Click on it, or use the arrow keys.`}
        title="Click on what crops should keep in view"
        onClick={click}
        onKeyDown={key}
      >
        <img ref={picture} src={src} alt="" />
        {focus && <i style={{ left: `${across}%`, top: `${down}%` }} />}
      </button>
      <div className="cut">
        {(shape ? [shape] : SHAPES).map((one) => (
          <figure key={one}>
            <img
              src={src}
              alt=""
              style={{ aspectRatio: one.replace(":", " / "), objectPosition: focus || "50% 50%" }}
            />
            <figcaption>{one}</figcaption>
          </figure>
        ))}
      </div>
      <small className="soft">
        {focus ? (
          <>
            crops keep {focus}{" "}
            <button type="button" className="linkish" onClick={() => onFocus("")}>
              no matter
            </button>
          </>
        ) : (
          "click on what crops should keep in view"
        )}
      </small>
    </div>
  );
}
