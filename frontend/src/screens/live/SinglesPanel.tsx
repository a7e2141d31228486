import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useAddress } from "../../shared/acts/address";
import { answered, api, type GroupLife, type LiveView } from "../../shared/api/client";
import { TypedBlank } from "../../shared/words/TypedBlank";
import { Bays } from "./Bays";
import { DoneLine } from "./DoneLine";
import its from "./live.module.css";
import { ProgressLine } from "./ProgressLine";
import { Copied } from "./TryForms";
import { useHands } from "./useHands";

interface Props {
  plan: number;
  singles: LiveView["singles"];
  chosen: string | null;
  choose: (name: string) => void;
}

/** Single instances outside any group: those that are there, and a sentence that starts more from a template. */
export function SinglesPanel({ plan, singles, chosen, choose }: Props) {
  const [open, setOpen] = useState(false);
  return (
    <section aria-label="Single instances" className={its.singles}>
      <h2>
        Single instances <small>outside any group</small>
      </h2>
      <ul>
        {singles.map((one) => (
          <li key={one.name}>
            <button
              type="button"
              className="plain-button"
              aria-pressed={one.name === chosen}
              onClick={() => choose(one.name)}
            >
              {one.name}
            </button>
            : {one.text}
            {one.instead.map((said) => (
              <b key={said} className={its.instead}>
                {said}
              </b>
            ))}
            , {one.serving} of {one.there} serve, <span className="ochre">{one.cost}</span>
          </li>
        ))}
      </ul>
      {open ? (
        <LaunchForm plan={plan} close={() => setOpen(false)} />
      ) : (
        <button type="button" className="plain-button" onClick={() => setOpen(true)}>
          start single instances
        </button>
      )}
    </section>
  );
}

function LaunchForm({ plan, close }: { plan: number; close: () => void }) {
  const queries = useQueryClient();
  const path = { plan_id: plan };
  const templates = useQuery({
    queryKey: ["templates", plan],
    queryFn: () => answered(api.GET("/api/plans/{plan_id}/templates", { params: { path } })),
  });
  const fields = useQuery({
    queryKey: ["template fields", plan],
    queryFn: () => answered(api.GET("/api/plans/{plan_id}/templates/fields", { params: { path } })),
  });
  const [count, setCount] = useState<number | null>(1);
  const [template, setTemplate] = useState("");
  const [field, setField] = useState("");
  const [value, setValue] = useState("");
  const [other, setOther] = useState<Record<string, string>>({});
  const chosen = template || templates.data?.[0]?.name || "";
  const launch = useMutation({
    mutationFn: () =>
      answered(
        api.POST("/api/plans/{plan_id}/live/singles", {
          params: { path },
          body: {
            template: chosen,
            version: "newest",
            count: count ?? 1,
            fields: field && value ? { ...other, [field]: value } : other,
          },
        }),
      ),
    onSuccess: () => {
      void queries.invalidateQueries({ queryKey: ["live", plan] });
      close();
    },
  });
  const sheet = fields.data?.filter((one) => !["note", "author"].includes(one.name));
  return (
    <form
      className={its.asked}
      aria-label="Start single instances"
      onSubmit={(event) => {
        event.preventDefault();
        if (count !== null) launch.mutate();
      }}
    >
      Start <TypedBlank label="How many" how={{ measure: "number" }} first="1" set={setCount} /> from{" "}
      <select aria-label="Template" value={chosen} onChange={(event) => setTemplate(event.target.value)}>
        {templates.data?.map((one) => (
          <option key={one.name}>{one.name}</option>
        ))}
      </select>
      {Object.entries(other).map(([name, said]) => (
        <b key={name} className={its.instead}>
          {name} {said}
        </b>
      ))}
      , for this launch with{" "}
      <select aria-label="Field" value={field} onChange={(event) => setField(event.target.value)}>
        <option value="">nothing else</option>
        {sheet?.map((one) => (
          <option key={one.name} value={one.name}>
            {one.label}
          </option>
        ))}
      </select>{" "}
      {field && (
        <>
          <input
            aria-label="Value"
            value={value}
            list="single-choices"
            onChange={(event) => setValue(event.target.value)}
          />
          <datalist id="single-choices">
            {sheet
              ?.find((one) => one.name === field)
              ?.choices.map((one) => (
                <option key={one} value={one} />
              ))}
          </datalist>{" "}
          <button
            type="button"
            className="plain-button"
            disabled={!value}
            onClick={() => {
              setOther({ ...other, [field]: value });
              setField("");
              setValue("");
            }}
          >
            and with
          </button>
        </>
      )}
      <button type="submit" className="solid-button" disabled={count === null || !chosen || launch.isPending}>
        Start
      </button>
      <button type="button" className="plain-button" onClick={close}>
        leave it
      </button>
      {launch.error && <span className="wrong">{launch.error.message}</span>}
    </form>
  );
}

/** The instances of one launch, to look at and to end. */
export function OneLaunch({ plan, life, asOf }: { plan: number; life: GroupLife; asOf: string | null }) {
  const { name } = life;
  const address = useAddress();
  const hands = useHands(plan, name, asOf);
  const tile = life.tiles.find((one) => one.number === address.number("instance"));
  const one = (act: "restart" | "drain" | "kill") =>
    tile && hands.lay({ act, instance: tile.number, one_fewer: false });
  return (
    <section aria-label={name} className={its.one}>
      {life.progress && <ProgressLine progress={life.progress} />}
      <Bays life={life} />
      {tile ? (
        <p>
          {name} {tile.number} at <Copied text={tile.address} label={`Address of ${name} ${tile.number}`} />,{" "}
          {tile.said}:{" "}
          <button type="button" className="plain-button" onClick={() => one("restart")}>
            restart
          </button>{" "}
          <button type="button" className="plain-button" onClick={() => one("drain")}>
            shut it down
          </button>{" "}
          <button type="button" className="plain-button" onClick={() => one("kill")}>
            end it at once
          </button>
        </p>
      ) : (
        <p className="quiet">Choose one to restart or to end it.</p>
      )}
      <DoneLine hands={hands} />
    </section>
  );
}
