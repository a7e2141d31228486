import type { KeyboardEvent } from "react";
import { useAddress } from "../../shared/acts/address";
import type { GroupLife, Tile } from "../../shared/api/client";
import { guestInk, useInks } from "../../shared/chart/ink";
import { Choice } from "../../shared/words/Choice";
import its from "./live.module.css";

const WAYS: Record<string, (tile: Tile) => string> = {
  zone: (tile) => tile.zone,
  state: (tile) => tile.state,
  version: (tile) => `version ${tile.version}`,
  age: (tile) => tile.age,
  load: (tile) => tile.load,
};
const INSTANCES = { title: "Instances", one: "instance", many: "instances" };
const COPIES = { title: "Copies", one: "copy", many: "copies" };
const OF_COPIES: typeof WAYS = { ...WAYS, host: (tile: Tile) => tile.where };

function walk(event: KeyboardEvent<HTMLElement>) {
  const by = { ArrowRight: 1, ArrowLeft: -1, ArrowDown: 6, ArrowUp: -6 }[event.key];
  if (by === undefined) return;
  const tiles = [...event.currentTarget.querySelectorAll<HTMLButtonElement>("[data-instance]")];
  const at = tiles.indexOf(document.activeElement as HTMLButtonElement);
  tiles[Math.min(tiles.length - 1, Math.max(0, at + by))]?.focus();
  event.preventDefault();
}

/** The instances as tiles that fill with their CPU, in bays. */
export function Bays({ life }: { life: GroupLife }) {
  const address = useAddress();
  const by = address.text("by") ?? "zone";
  const chosen = address.number("instance");
  const carries = life.guests.length > 0;
  const ways = !carries && life.tiles.some((tile) => tile.where) ? OF_COPIES : WAYS;
  const of = ways[by] ?? ((tile: Tile) => tile.zone);
  const words = ways === OF_COPIES ? COPIES : INSTANCES;
  const inks = useInks();
  const names = by === "zone" ? life.zones : [...new Set(life.tiles.map(of))].sort();
  return (
    <>
      <p className={`quiet ${its.byline}`}>
        {words.title} by{" "}
        <Choice
          label="Bays by"
          value={by}
          options={Object.keys(ways)}
          set={(way) => address.choose({ by: way === "zone" ? null : way })}
        />
        {carries && ", each with the copies that it carries and how much of its room they hold: "}
        {life.guests.map((guest, k) => (
          <span key={guest} className={its.guest}>
            <i style={{ background: guestInk(inks, k, life.guests.length) }} />
            {guest}
          </span>
        ))}
      </p>
      {/* biome-ignore lint/a11y/noStaticElementInteractions: the arrow keys walk the tiles, which are buttons */}
      <div className={its.bays} onKeyDown={walk}>
        {names.map((name) => {
          const inside = life.tiles.filter((tile) => of(tile) === name);
          return (
            <section key={name} className={its.bay} aria-label={name}>
              <h3>
                {name}{" "}
                <small>
                  {inside.length} {inside.length === 1 ? words.one : words.many}
                </small>
              </h3>
              <div>
                {inside.map((tile) => {
                  const cpu = Math.round((tile.cpu ?? 0) * 100);
                  const told = [tile.said, tile.where].filter(Boolean).join(", ");
                  return (
                    <button
                      key={tile.number}
                      type="button"
                      data-instance={tile.number}
                      className={`${its.tile} ${its[tile.state] ?? ""} ${carries ? its.carrying : ""}`}
                      aria-pressed={tile.number === chosen}
                      aria-label={`${tile.name || `Instance ${tile.number}`}: ${told}${tile.cpu === null ? "" : `, CPU ${cpu} %`}`}
                      title={`${tile.name || tile.number}: ${told}`}
                      onClick={() => address.choose({ instance: tile.number === chosen ? null : tile.number })}
                    >
                      {carries ? (
                        <Cargo tile={tile} guests={life.guests} />
                      ) : (
                        tile.cpu !== null && <i style={{ height: `${cpu}%` }} />
                      )}
                      <span>{tile.cpu === null ? "" : cpu}</span>
                      {tile.pinned && <em>pin</em>}
                    </button>
                  );
                })}
              </div>
            </section>
          );
        })}
      </div>
    </>
  );
}

/** What an instance carries, the guests one upon the other as high as what they hold of its room. */
function Cargo({ tile, guests }: { tile: Tile; guests: string[] }) {
  const inks = useInks();
  return (
    <b className={its.cargo}>
      {tile.carried.map((one) => (
        <u
          key={one.guest}
          style={{
            height: `${100 * one.share}%`,
            background: guestInk(inks, guests.indexOf(one.guest), guests.length),
          }}
        >
          {one.copies}
        </u>
      ))}
    </b>
  );
}
