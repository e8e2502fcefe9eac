/** Files side by side, as pictures. */
import { Button } from "@mui/material";
import { count, size, useCrossingId } from "../../shell/state";
import { Told } from "../../shores/Told";
import { small, usePictures, type Asked } from "./queries";
import { FAULT, hasPicture, pixels } from "./words";

export function Grid({ asked, at, onOpen }: { asked: Asked; at: number; onOpen: (id: number) => void }) {
  const crossing = useCrossingId();
  const pictures = usePictures(asked);
  const rows = pictures.data?.pages.flatMap((page) => page.rows) ?? [];
  const total = pictures.data?.pages[0]?.total ?? 0;
  return (
    <div className="scroll" tabIndex={0} role="region" aria-label="Files side by side">
      <Told error={pictures.error} />
      <div className="tiles">
        {rows.map((file) => (
          <button
            key={file.id}
            className={`tile${file.id === at ? " on" : ""}`}
            aria-pressed={file.id === at}
            title={file.url}
            onClick={() => onOpen(file.id)}
          >
            <span className="shot">
              {hasPicture(file) ? (
                <img src={small(crossing, file.id)} alt="" loading="lazy" decoding="async" />
              ) : (
                <span className="soft">{file.mime.replace(/^.*\//, "")}</span>
              )}
            </span>
            <span className="mono">{decodeURIComponent(file.url.split("/").pop() || file.url)}</span>
            <small className={file.fault ? "state odd" : ""}>
              {file.fault
                ? FAULT[file.fault]
                : [pixels(file), size(file.bytes), file.sources > 1 && `${count(file.sources)} addresses`]
                    .filter(Boolean)
                    .join(" · ")}
            </small>
          </button>
        ))}
      </div>
      {pictures.data && !rows.length && <div className="empty">No file is like that.</div>}
      {pictures.hasNextPage && (
        <div className="pad">
          <Button variant="outlined" onClick={() => void pictures.fetchNextPage()}>
            More, of {count(total)}
          </Button>
        </div>
      )}
    </div>
  );
}
