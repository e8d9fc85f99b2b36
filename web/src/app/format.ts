const dateTime = new Intl.DateTimeFormat("en-GB", {
  weekday: "short",
  day: "numeric",
  month: "short",
  hour: "2-digit",
  minute: "2-digit",
});

/** A date as people say it. */
export const when = (iso: string) => dateTime.format(new Date(iso));

/** A date in a time zone, which is named. */
export function inZone(date: string, zone: string) {
  const text = new Intl.DateTimeFormat("en-GB", {
    weekday: "short",
    day: "numeric",
    month: "short",
    year: "numeric",
    hour: "2-digit",
    minute: "2-digit",
    timeZone: zone,
  }).format(new Date(date));
  return `${text}, ${zone === "UTC" ? zone : `${zone.replaceAll("_", " ")} time`}`;
}

/** A date for a field of the kind datetime-local, in the time of this machine. */
export function localTime(iso: string | Date) {
  const d = new Date(iso);
  return new Date(d.getTime() - d.getTimezoneOffset() * 60000).toISOString().slice(0, 16);
}

/** How far off a date is: "in 3 days", "2 hours ago". */
export function distance(iso: string) {
  const minutes = Math.round((new Date(iso).getTime() - Date.now()) / 60000);
  const relative = new Intl.RelativeTimeFormat("en-GB", { numeric: "auto" });
  if (Math.abs(minutes) < 90) return relative.format(minutes, "minute");
  if (Math.abs(minutes) < 36 * 60) return relative.format(Math.round(minutes / 60), "hour");
  return relative.format(Math.round(minutes / 1440), "day");
}

export const points = (v: number) => String(Math.round(v * 100) / 100).replace("-", "−");

/** Words for the units of a model. */
export const unitWords = {
  mm: "millimetres",
  cm: "centimetres",
  m: "metres",
  in: "inches",
} as const;

/** Words for the states of an attempt. */
export const stateWords: Record<string, string> = {
  queued: "waits for its check",
  checking: "being checked",
  unusable: "could not be used",
  parked: "check not finished",
  checked: "checked",
  returned: "returned",
};

/** What is said of an attempt in a state, after “The attempt”. */
export const stateSentences: Record<string, string> = {
  queued: "waits for its check",
  checking: "is being checked",
  unusable: "could not be used",
  parked: "is kept, but its check was not finished",
  checked: "is checked",
  returned: "is returned",
};
