interface Props {
  label: string;
  value: string;
  options: string[];
  set: (value: string) => void;
  /** What stands there while nothing is chosen. */
  none?: string;
}

/** A choice among names. */
export function Choice({ label, value, options, set, none }: Props) {
  return (
    <select aria-label={label} value={value} onChange={(e) => set(e.target.value)}>
      {none && !value && <option value="">{none}</option>}
      {options.map((option) => (
        <option key={option}>{option}</option>
      ))}
    </select>
  );
}
