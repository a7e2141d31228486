const formats = new Map<string, Intl.DateTimeFormat>();

/** A time in the plan's zone: `Thu 10 Jul 11:45`. */
export function clockText(at: number, zone: string): string {
  let format = formats.get(zone);
  if (!format) {
    format = new Intl.DateTimeFormat("en-GB", {
      timeZone: zone,
      weekday: "short",
      day: "numeric",
      month: "short",
      hour: "2-digit",
      minute: "2-digit",
      hourCycle: "h23",
    });
    formats.set(zone, format);
  }
  return format.format(at).replaceAll(",", "");
}
