// Times as people read them on a phone.

const HOUR = { hour: "2-digit", minute: "2-digit", hour12: false };

export const clockOf = (at) => (at ? new Date(at).toLocaleTimeString([], HOUR) : "");
export const timeOf = (at) => new Date(at).toLocaleString([], { day: "2-digit", month: "short", ...HOUR });

// When a value was typed goes with it: the moment stands in a field of its own beside it.
export function noteMoment(field, now) {
  const moment = field.form && field.form.querySelector(`[data-moment][name="${field.name}_ms"]`);
  if (moment) moment.value = String(now);
}

// The day on which something was done, in UTC, as calibrations are judged.
export const dayOf = (at) => new Date(at).toISOString().slice(0, 10);
