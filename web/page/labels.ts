/** An answer as a person reads it: choices by their labels. */
export const labelled = (choices: readonly { id: string; label: string }[] | undefined, answer: string) =>
  choices?.length
    ? answer
        .split('\n')
        .map(id => choices.find(c => c.id === id)?.label ?? id)
        .join(', ')
    : answer
