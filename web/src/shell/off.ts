/** What a control is that cannot be used now, and why: the first reason that holds is said when one points at it. */
export function off(...reasons: [unknown, string][]): { disabled: boolean; title?: string } {
  const found = reasons.find(([holds]) => !!holds);
  return found ? { disabled: true, title: found[1] } : { disabled: false };
}

export const RUNS = "A job is running; it can be begun when that has ended.";
export const BUSY = "It is being done.";
