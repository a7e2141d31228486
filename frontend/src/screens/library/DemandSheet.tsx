import { useElementSize } from "@mantine/hooks";
import { useMutation } from "@tanstack/react-query";
import { clsx } from "clsx";
import { type ReactNode, useMemo, useState } from "react";
import { useOffered } from "../../shared/acts/acts";
import { Offers } from "../../shared/acts/Offers";
import { answered, api, type DemandSentence } from "../../shared/api/client";
import { TimeBlock } from "../../shared/time/TimeBlock";
import { Words } from "../../shared/words/Words";
import { DemandChart } from "./DemandChart";
import { LayerChart } from "./LayerChart";
import its from "./library.module.css";
import { useDemand } from "./useDemand";

interface Props {
  plan: number;
  name: string;
  bring: ReactNode;
  /** Goes to a demand that was made. */
  goTo: (name: string) => void;
}

/** A demand as layers laid over one another: each a sentence and a strip, their sum above. */
export function DemandSheet({ plan, name, bring, goTo }: Props) {
  const compose = useMutation({
    mutationFn: (key: string) =>
      answered(
        api.POST("/api/plans/{plan_id}/demands/{name}/composed", {
          params: { path: { plan_id: plan, name } },
          body: { key },
        }),
      ),
    onSuccess: (made) => goTo(made.name),
  });
  const { ref, width } = useElementSize();
  const [looked, setLooked] = useState("");
  const buckets = width === 0 ? 0 : Math.min(1200, Math.max(200, Math.round(width * 0.6)));
  const desk = useDemand(plan, name, buckets);
  const { view, handling, preview, commit, undo, redo } = desk;
  const row = (one: DemandSentence) => {
    const layer = view?.picture.layers.find((strip) => strip.key === one.key);
    const incident = view?.picture.incidents.find((strip) => strip.key === one.key);
    const block = layer?.block ?? incident?.block;
    const said = one.words.map((word) => word.text).join("");
    return (
      <div
        key={one.key}
        className={clsx(
          its.layer,
          its[`kind-${one.kind}`],
          one.muted && its.muted,
          desk.apart === one.key && its.apart,
        )}
        data-layer={one.key}
      >
        <div className={its.layerSays}>
          <p>
            <Words words={one.words} handling={handling} />
          </p>
          {one.kind === "brought" && (
            <button
              type="button"
              className={`plain-button ${its.compose}`}
              title="A demand of its own, of layers that can be edited: level, day, weekdays, growth, unevenness, rushes"
              disabled={compose.isPending}
              onClick={() => compose.mutate(one.key)}
            >
              compose one like it
            </button>
          )}
          <span className={its.layerActs}>
            <button
              type="button"
              className="plain-button"
              aria-pressed={one.muted}
              onClick={() => handling.commit(`${one.key}.muted`, !one.muted)}
            >
              {one.muted ? "lay it on again" : "mute"}
            </button>
            {layer && !one.muted && (
              <button
                type="button"
                className="plain-button"
                aria-pressed={desk.apart === one.key}
                onClick={() => desk.setApart(desk.apart === one.key ? null : one.key)}
              >
                show without
              </button>
            )}
            <button type="button" className="plain-button" onClick={() => commit([{ op: "remove", path: one.key }])}>
              take out
            </button>
          </span>
        </div>
        {view && (layer || incident) && (
          <LayerChart
            picture={view.picture}
            layer={layer}
            kind={one.kind}
            handling={handling}
            edit={{ preview, commit, keepTried: desk.keepTried }}
          >
            {block && (
              <TimeBlock
                begin={block.begin}
                end={block.end}
                axis={view.picture}
                label={said}
                tone={layer ? "tone-rush" : "tone-incident"}
                change={(by, longer) =>
                  preview([{ op: "move", path: one.key, value: { by: by / 1000, longer: longer / 1000 } }])
                }
                stretches={block.stretches}
                keep={desk.keepTried}
                putBack={handling.putBack}
              />
            )}
          </LayerChart>
        )}
      </div>
    );
  };
  const incidents = view?.sentences.filter((one) => one.key.startsWith("incidents.")) ?? [];
  const layers = view?.sentences.filter((one) => one.key.startsWith("layers.")) ?? [];
  useOffered(
    useMemo(
      () => [
        ...(undo ? [{ group: "Do here", label: "Undo", about: name, keys: ["mod + Z"], run: undo }] : []),
        ...(redo
          ? [{ group: "Do here", label: "Redo", about: name, keys: ["mod + shift + Z", "mod + Y"], run: redo }]
          : []),
        ...[...(view?.more_layers ?? []), ...(view?.more_incidents ?? [])].map((offer) => ({
          group: "Do here",
          label: offer.text,
          about: name,
          also: offer.also ?? "",
          run: () => commit(offer.changes),
        })),
      ],
      [view?.more_layers, view?.more_incidents, name, commit, undo, redo],
    ),
  );
  return (
    <section className={`${its.sheet} ${its.demandSheet}`} aria-label={name}>
      <div className={its.sheetHead}>
        <h1>{name}</h1>
        {view && (
          <span className="quiet">
            {view.used_by.length === 0 && "met by no group"}
            {view.used_by.length === 1 && `met by ${view.used_by[0]}`}
            {view.used_by.length > 1 && `shared by ${view.used_by.join(", ")}: an edit changes the week of each`}
          </span>
        )}
        <span className={its.end}>
          <button type="button" className="plain-button" disabled={!undo} onClick={() => undo?.()}>
            undo
          </button>
          <button type="button" className="plain-button" disabled={!redo} onClick={() => redo?.()}>
            redo
          </button>
        </span>
      </div>
      {view && (
        <p className={`quiet ${its.note}`}>
          <Words words={[view.note]} handling={handling} />
        </p>
      )}
      {(desk.error || compose.error) && (
        <p className="notice" role="alert">
          {desk.error || compose.error?.message}
        </p>
      )}
      <div className={its.layers} ref={ref}>
        {view && (
          <>
            <div className={`${its.layer} ${its.total}`}>
              <div className={its.layerSays}>
                <p>{view.picture.summary}</p>
                {view.effects.map((effect) => (
                  <p key={effect.group} className={its.effect}>
                    <b>{effect.group}</b>: {effect.cost} for the span, short for {effect.short}
                    {effect.broken.map((promise) => (
                      <span key={promise} className="wrong">
                        , broken: {promise}
                      </span>
                    ))}
                  </p>
                ))}
              </div>
              <DemandChart view={view} apart={desk.apart} table={looked === "table"} close={() => setLooked("")} />
            </div>
            {layers.map(row)}
            <Offers offers={view.more_layers} take={commit}>
              {bring}
            </Offers>
            {incidents.map(row)}
            <Offers offers={view.more_incidents} lead="Bad days: " take={commit}>
              <button type="button" className={`plain-button ${its.tableButton}`} onClick={() => setLooked("table")}>
                the demand as a table
              </button>
            </Offers>
          </>
        )}
      </div>
    </section>
  );
}
