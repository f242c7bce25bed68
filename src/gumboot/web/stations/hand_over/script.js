// By which clock a table that is sent was written, when it does not say so itself.

export const clock = () => ({ zone: Intl.DateTimeFormat().resolvedOptions().timeZone || "" });
