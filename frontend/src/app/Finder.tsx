import "@mantine/core/styles/ModalBase.css";
import "@mantine/core/styles/Modal.css";
import "@mantine/core/styles/Overlay.css";
import "@mantine/core/styles/Paper.css";
import "@mantine/core/styles/Input.css";
import "@mantine/core/styles/ScrollArea.css";
import "@mantine/core/styles/UnstyledButton.css";
import "@mantine/spotlight/styles.css";
import { Spotlight, type SpotlightActionData, type SpotlightActionGroupData, spotlight } from "@mantine/spotlight";
import { useEffect } from "react";
import { useNavigate } from "react-router";
import { type Act, useActs } from "../shared/acts/acts";
import type { PlanView } from "../shared/api/client";

interface Props {
  plan: PlanView | undefined;
  turn: () => void;
  keys: () => void;
}

/** Ctrl K: finds a group, a setting, a strip or a finding on the screen, or does something. */
export function Finder({ plan, turn, keys }: Props) {
  const navigate = useNavigate();
  // It is fetched when it is first asked for, and so opens as it comes.
  useEffect(() => spotlight.open(), []);
  const here = sorted(useActs());
  const groups: SpotlightActionData[] = (plan?.groups ?? []).map((group) => ({
    id: `group ${group}`,
    label: group,
    description: "Rehearse this group",
    onClick: () => navigate(`/rehearse/${group}`),
  }));
  const acts: SpotlightActionData[] = [
    { id: "groups", label: "Groups", description: "All groups by need", onClick: () => navigate("/groups") },
    {
      id: "tune",
      label: "Tune",
      description: "Look for the best settings",
      keywords: "optimise search thresholds cooldown best cheapest front",
      onClick: () => navigate("/tune"),
    },
    {
      id: "live",
      label: "Live",
      description: "The groups as they run",
      keywords: "instances running journal clock keeper state monitor watch",
      onClick: () => navigate("/live"),
    },
    {
      id: "notices",
      label: "Notices",
      description: "When somebody is told, and what was told",
      keywords: "alert alarm notify notification webhook on-call threshold budget",
      onClick: () => navigate("/live?told=notices"),
    },
    {
      id: "costs",
      label: "Costs",
      description: "What the groups cost, by day and for what",
      keywords: "bill spend budget money month ledger unit cost forecast",
      onClick: () => navigate("/costs"),
    },
    {
      id: "templates",
      label: "Templates",
      description: "Library",
      keywords: "launch template image disk subnet firewall boot warm-up warmup start-up script",
      onClick: () => navigate("/library/templates"),
    },
    {
      id: "machines",
      label: "Machines",
      description: "Library",
      keywords: "price cost catalogue machines quota",
      onClick: () => navigate("/library/machines"),
    },
    {
      id: "network",
      label: "Network and outside metrics",
      description: "Library",
      keywords: "subnet zone firewall rule port security outside metric series",
      onClick: () => navigate("/library/network"),
    },
    ...(plan?.demands ?? []).map((demand) => ({
      id: `demand ${demand}`,
      label: demand,
      description: "Demand in the library",
      keywords: "layers load traffic incidents zone lost outage slow boots",
      onClick: () => navigate(`/library/demands/${demand}`),
    })),
    { id: "theme", label: "Light or dark", description: "The other theme", onClick: turn },
    { id: "keys", label: "Keys", description: "What the keyboard does", onClick: keys },
  ];
  return (
    <Spotlight
      shortcut="mod + K"
      actions={[{ group: "Groups", actions: groups }, ...here, { group: "Do", actions: acts }]}
      nothingFound="Nothing of this name"
      highlightQuery
      scrollable
      maxHeight={420}
      limit={200}
      overlayProps={{ blur: 0, backgroundOpacity: 0.25 }}
      classNames={{ content: "finder", actionDescription: "finder-about" }}
      searchProps={{ placeholder: "Find a group, a setting, a strip", "aria-label": "Find or do" }}
    />
  );
}

const HEADINGS = ["Do here", "Settings", "Strips", "Metrics", "Findings", "Takes"];

/** What the screen offers, under its headings. */
function sorted(acts: Act[]): SpotlightActionGroupData[] {
  return HEADINGS.map((group) => ({
    group,
    actions: acts
      .filter((act) => act.group === group)
      .map((act, number) => ({
        id: `${group} ${number}`,
        label: act.keys?.[0]
          ? `${act.label} (${act.keys[0].replace("mod", "Ctrl").replaceAll(" + ", " ")})`
          : act.label,
        description: act.about ?? "On this screen",
        keywords: act.also ?? "",
        onClick: act.run,
      })),
  })).filter((one) => one.actions.length > 0);
}
