/** Text in which a number and its unit stay on one line. */
export function held(text: string): string {
  return text.replace(/(\d) (?=(?:%|ms|s|min|h|d)(?![a-z]))|([€£$]) (?=\d)/g, "$1$2\u00a0");
}
