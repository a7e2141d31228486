import "@mantine/core/styles/ModalBase.css";
import "@mantine/core/styles/Modal.css";
import "@mantine/core/styles/Overlay.css";
import "@mantine/core/styles/Paper.css";
import "@mantine/core/styles/Input.css";
import "@mantine/core/styles/ScrollArea.css";
import "@mantine/core/styles/UnstyledButton.css";
import "@mantine/spotlight/styles.css";
import { Spotlight, type SpotlightActionData, type SpotlightActionGroupData, spotlight } from "@mantine/spotlight";
import { useEffect, useState } from "react";
import { useNavigate } from "react-router";
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
  const [here, setHere] = useState<SpotlightActionGroupData[]>([]);
  const groups: SpotlightActionData[] = (plan?.groups ?? []).map((group) => ({
    id: `group ${group}`,
    label: group,
    description: "Rehearse this group",
    onClick: () => navigate(`/rehearse/${group}`),
  }));
  const acts: SpotlightActionData[] = [
    { id: "groups", label: "Groups", description: "All groups by need", onClick: () => navigate("/groups") },
    { id: "templates", label: "Templates", description: "Library", onClick: () => navigate("/library/templates") },
    { id: "machines", label: "Machines", description: "Library", onClick: () => navigate("/library/machines") },
    ...(plan?.demands ?? []).map((demand) => ({
      id: `demand ${demand}`,
      label: demand,
      description: "Demand in the library",
      onClick: () => navigate(`/library/demands/${demand}`),
    })),
    { id: "theme", label: "Light or dark", description: "The other theme", onClick: turn },
    { id: "keys", label: "Keys", description: "What the keyboard does", onClick: keys },
  ];
  return (
    <Spotlight
      shortcut="mod + K"
      actions={[{ group: "Groups", actions: groups }, ...here, { group: "Do", actions: acts }]}
      onSpotlightOpen={() => setHere(onScreen())}
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

/** What stands on the screen and has a name: the words that can be changed, the strips, the findings. */
function onScreen(): SpotlightActionGroupData[] {
  const named = (selector: string, label: (one: HTMLElement) => string, about: (one: HTMLElement) => string) =>
    [...document.querySelectorAll<HTMLElement>(selector)].map((one, number) => ({
      id: `${selector} ${number}`,
      label: label(one),
      description: about(one),
      // A setting is found by its name in files, too: the trade's cooldown where the page says wait.
      keywords: one.dataset.path?.replace(/[._-]/g, " ") ?? "",
      onClick: () => goTo(one),
    }));
  const found: SpotlightActionGroupData[] = [
    {
      group: "Settings",
      actions: named(
        ".page .word",
        (word) => word.getAttribute("aria-label") ?? "",
        (word) => word.closest("p")?.textContent ?? "",
      ),
    },
    {
      group: "Strips",
      actions: named(
        ".strip[aria-label]",
        (strip) => strip.getAttribute("aria-label") ?? "",
        (strip) => strip.querySelector(".says")?.textContent ?? "",
      ),
    },
    {
      group: "Findings",
      actions: named(
        ".finding",
        (finding) => finding.dataset.code?.replaceAll("-", " ") ?? "",
        (finding) => finding.textContent ?? "",
      ),
    },
  ];
  const metrics = [...document.querySelectorAll<HTMLOptionElement>(".add-strip option:not([disabled])")].map((one) => ({
    id: `metric ${one.value}`,
    label: one.textContent ?? "",
    description: "Show it as a strip",
    onClick: () => {
      const choice = one.closest("select");
      if (!choice) return;
      choice.value = one.value;
      choice.dispatchEvent(new Event("change", { bubbles: true }));
    },
  }));
  const acts = [
    ...document.querySelectorAll<HTMLElement>(".page-head button, .where button, .page .more button, .made button"),
  ].map((one, number) => ({
    id: `act ${number}`,
    label: one.textContent ?? "",
    description: one.closest(".more")?.firstChild?.textContent ?? "On this screen",
    onClick: () => one.click(),
  }));
  found.push({ group: "Metrics", actions: metrics }, { group: "Do here", actions: acts });
  return found.filter((one) => one.actions.length > 0);
}

function goTo(element: HTMLElement) {
  // The finder gives the focus back when it closes; only then may it go elsewhere.
  setTimeout(() => {
    element.scrollIntoView({ block: "center" });
    const target = element.matches("button") ? element : element.querySelector<HTMLElement>("button, [tabindex]");
    target?.focus();
  }, 250);
}
