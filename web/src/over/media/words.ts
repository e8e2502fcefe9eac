/** What is said of files. */
import { count } from "../../shell/state";
import type { MediaFile } from "./queries";

export const ONLY: readonly (readonly [string, string])[] = [
  ["mute", "shown without a text"],
  ["twins", "under several addresses"],
  ["elsewhere", "of other hosts"],
  ["fault", "something is wrong"],
  ["unused", "on no page"],
  ["role", "with a role"],
  ["unsuited", "not fit for it"],
  ["decided", "something said"],
];

export const FAULT: Record<string, string> = {
  empty: "it has no byte",
  page: "an HTML page came",
  other: "of another type than it says",
  broken: "cannot be read as a picture",
  large: "more pixels than are opened",
};

export const UNSUITED: Record<string, string> = {
  small: "too small for its role",
  shape: "of another shape than its role wants",
  unknown: "nothing is known of its size",
  "no role": "its role is gone",
};

export const pixels = (file: MediaFile) => (file.width ? `${count(file.width)} × ${count(file.height)}` : "");

/** Whether a small picture of it can be had. */
export const hasPicture = (file: MediaFile) =>
  file.width > 0 && file.mime !== "image/svg+xml" && file.width * file.height <= 40_000_000;
