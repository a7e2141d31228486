import type { KeyboardEvent } from "react";
import { useAddress } from "../../shared/acts/address";
import type { GroupLife, Tile } from "../../shared/api/client";
import { Choice } from "../../shared/words/Choice";
import its from "./live.module.css";

const WAYS: Record<string, (tile: Tile) => string> = {
  zone: (tile) => tile.zone,
  state: (tile) => tile.state,
  version: (tile) => `version ${tile.version}`,
  age: (tile) => tile.age,
  load: (tile) => tile.load,
};

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
  const of = WAYS[by] ?? ((tile: Tile) => tile.zone);
  const names = by === "zone" ? life.zones : [...new Set(life.tiles.map(of))].sort();
  return (
    <>
      <p className={`quiet ${its.byline}`}>
        Instances by{" "}
        <Choice
          label="Bays by"
          value={by}
          options={Object.keys(WAYS)}
          set={(way) => address.choose({ by: way === "zone" ? null : way })}
        />
      </p>
      {/* biome-ignore lint/a11y/noStaticElementInteractions: the arrow keys walk the tiles, which are buttons */}
      <div className={its.bays} onKeyDown={walk}>
        {names.map((name) => {
          const inside = life.tiles.filter((tile) => of(tile) === name);
          return (
            <section key={name} className={its.bay} aria-label={name}>
              <h3>
                {name} <small>{inside.length === 1 ? "1 instance" : `${inside.length} instances`}</small>
              </h3>
              <div>
                {inside.map((tile) => {
                  const cpu = Math.round((tile.cpu ?? 0) * 100);
                  return (
                    <button
                      key={tile.number}
                      type="button"
                      data-instance={tile.number}
                      className={`${its.tile} ${its[tile.state] ?? ""}`}
                      aria-pressed={tile.number === chosen}
                      aria-label={`${tile.name || `Instance ${tile.number}`}: ${tile.said}${tile.cpu === null ? "" : `, CPU ${cpu} %`}`}
                      title={`${tile.name || tile.number}: ${tile.said}`}
                      onClick={() => address.choose({ instance: tile.number === chosen ? null : tile.number })}
                    >
                      {tile.cpu !== null && <i style={{ height: `${cpu}%` }} />}
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
