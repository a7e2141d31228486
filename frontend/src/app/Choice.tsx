/** A choice among names. */
export function Choice(props: { label: string; value: string; options: string[]; set: (value: string) => void }) {
  return (
    <select aria-label={props.label} value={props.value} onChange={(e) => props.set(e.target.value)}>
      {props.options.map((option) => (
        <option key={option}>{option}</option>
      ))}
    </select>
  );
}
