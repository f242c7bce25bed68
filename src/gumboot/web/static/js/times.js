// Times as people read them on a phone.

const HOUR = { hour: "2-digit", minute: "2-digit", hour12: false };

export const clockOf = (at) => (at ? new Date(at).toLocaleTimeString([], HOUR) : "");
export const timeOf = (at) => new Date(at).toLocaleString([], { day: "2-digit", month: "short", ...HOUR });
// The day on which something was done, in UTC, as calibrations are judged.
export const dayOf = (at) => new Date(at).toISOString().slice(0, 10);
