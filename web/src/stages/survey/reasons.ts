/** Why an address is kept out, in words. */
const REASONS: Record<string, string> = {
  "other host": "on another host",
  "other host: files only": "pages of a host that gives files only",
  "outside the folder": "outside the folders to stay in",
  "excluded by pattern": "excluded by a pattern",
  "not in an included pattern": "like none of the patterns asked for",
  "deeper than allowed": "deeper than allowed",
  "robots.txt": "robots.txt asks us to leave them",
  "endless space": "made without end by a script",
  "repeats itself": "a path that goes in a circle",
};
export const reasonWords = (reason: string) => REASONS[reason] ?? reason;
