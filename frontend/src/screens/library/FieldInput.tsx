import type { TemplateField } from "../../shared/api/client";

interface Props {
  field: TemplateField;
  text: string;
  change: (text: string) => void;
}

/** A field of a template while it is written: a list where there is a list, several lines where it is long. */
export function FieldInput({ field, text, change }: Props) {
  const named = { "aria-label": field.label };
  switch (field.kind) {
    case "choice":
    case "flag": {
      const known = field.kind === "flag" ? ["yes", "no"] : field.choices;
      return (
        <select {...named} value={text} onChange={(event) => change(event.target.value)}>
          <option value="">not set</option>
          {known.map((one) => (
            <option key={one}>{one}</option>
          ))}
        </select>
      );
    }
    case "choices": {
      const chosen = text.split(",").flatMap((one) => one.trim() || []);
      return (
        <fieldset {...named}>
          {field.choices.map((one) => (
            <label key={one}>
              <input
                type="checkbox"
                checked={chosen.includes(one)}
                onChange={(event) =>
                  change(
                    field.choices.filter((c) => (c === one ? event.target.checked : chosen.includes(c))).join(", "),
                  )
                }
              />{" "}
              {one}
            </label>
          ))}
        </fieldset>
      );
    }
    case "long":
    case "pairs":
      return (
        <textarea
          {...named}
          rows={Math.min(8, Math.max(2, text.split("\n").length))}
          placeholder={field.kind === "pairs" ? "key=value, one a line" : "not set"}
          value={text}
          onChange={(event) => change(event.target.value)}
        />
      );
    default:
      return (
        <input
          {...named}
          placeholder={field.name === "note" ? "why this version is made" : "not set"}
          value={text}
          onChange={(event) => change(event.target.value)}
        />
      );
  }
}
