// Where things of a house are sent and asked for, as the server knows them.

const at = (job, ...parts) => ["/jobs", job, ...parts].map((part, n) => (n ? encodeURIComponent(part) : part)).join("/");

// An act's id is its word and its name, which may have colons of its own.
const named = (act) => {
  const [word, ...name] = act.split(":");
  return [word, name.join(":")];
};

export const recordAt = (job, act) => at(job, "records", ...named(act));
export const photoAt = (job, act) => at(job, "photos", ...named(act));
export const noteAt = (job, act) => at(job, "notes", ...named(act));
export const pictureAt = (job, hash) => at(job, "photos", hash);
// Where what was to be sent to an address is set aside.
export const asideAt = (action) => action.replace(/\/(records|photos|notes)\//, "/set-aside/");
export const eventsAt = (job) => at(job, "events");
export const handAt = (job) => at(job, "hand");
export const benchAt = (job, station) => at(job, "at-the-bench", station);
export const boxAt = (job, place, ...leave) => at(job, "in-hand", place, ...leave);
export const planAt = (job) => "/api" + at(job);
export const dataAt = (job, what) => "/api" + at(job) + "/" + what;
