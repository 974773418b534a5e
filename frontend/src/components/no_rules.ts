// The kit's forms bring a checker of rules with them. Ours have no rules of their own: the server checks what is sent
// and names the field, so the checker is left out of what travels.
export default class NoRules {
  validate(): Promise<void> {
    return Promise.resolve()
  }
}
