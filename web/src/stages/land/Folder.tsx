/** The folder that a crossing lands in: where it lies, and all of it as an archive. */
import { useCrossingId } from "../../shell/state";
import { Told } from "../../shores/Told";
import { useFolder } from "./queries";

export function Folder() {
  const crossing = useCrossingId();
  const folder = useFolder();
  const data = folder.data;
  if (!data) return <Told error={folder.error} />;
  const short = data.place.split("/").slice(-2).join("/");
  return (
    <span>
      <span className="mono" title={data.place}>
        {short}
      </span>{" "}
      {data.fault || `${data.files.toLocaleString("en")} files`}
      {data.files > 0 && (
        <>
          {" · "}
          <a href={`/api/crossings/${crossing}/landed/file/zip`} download>
            as a zip
          </a>
        </>
      )}
    </span>
  );
}
