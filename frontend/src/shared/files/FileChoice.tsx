import its from "./files.module.css";

interface Props {
  text: string;
  accept: string;
  choose: (file: File) => void;
}

/** Words that open the choice of a file. */
export function FileChoice({ text, accept, choose }: Props) {
  return (
    <label className={`plain-button ${its.bring}`}>
      {text}
      <input
        type="file"
        accept={accept}
        className="sr"
        onChange={(event) => {
          const file = event.target.files?.[0];
          if (file) choose(file);
          event.target.value = "";
        }}
      />
    </label>
  );
}

export const SERIES_FILES = ".csv,.txt,.prom,text/csv,text/plain";
