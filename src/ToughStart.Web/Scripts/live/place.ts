import type { Moment } from "./log";

/**
 * Places a claim in server time: never after it was received, never before what its maker had seen. While it waits on the phone nobody has
 * received it yet: then there is no upper bound.
 */
export function place(claim: Moment, knew: number, before: Moment | null, received = Infinity): Moment {
  const floor = Math.max(knew, before?.lo ?? 0);
  const impossible = claim.hi < floor || claim.lo > received;
  const [lo, hi] = impossible ? [0, received] : [claim.lo, claim.hi];
  const at = Math.min(received, Math.max(claim.at, knew, before?.at ?? 0));
  return { at, lo: Math.min(at, Math.max(lo, floor)), hi: Math.max(at, Math.min(hi, received)) };
}
