/** A form as a request sends it, a file among its fields. */
export function sent(form: FormData): { body: never; bodySerializer: () => FormData } {
  return { body: form as never, bodySerializer: () => form };
}
