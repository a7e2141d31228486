import its from "./words.module.css";

interface Props {
  label: string;
  names: { name: string; about?: string }[];
  chosen: string[];
  choose: (chosen: string[]) => void;
}

/** Some of several names, each put in or left out with a press. */
export function NameToggles({ label, names, chosen, choose }: Props) {
  return (
    // biome-ignore lint/a11y/useSemanticElements: it stands within a sentence
    <span role="group" aria-label={label} className={its.toggles}>
      {names.map(({ name, about }) => {
        const taken = chosen.includes(name);
        return (
          <button
            key={name}
            type="button"
            aria-pressed={taken}
            title={about}
            onClick={() => choose(taken ? chosen.filter((one) => one !== name) : [...chosen, name])}
          >
            {name}
          </button>
        );
      })}
    </span>
  );
}
