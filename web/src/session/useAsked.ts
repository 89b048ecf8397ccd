import { useEffect } from "react";

/**
 * Ask once a question has rested for a while, and again when it changes (null asks nothing).  Answers can come in
 * another order than the questions went out: only that to the newest question is told.
 */
export function useAsked<Answer>(
  question: string | null,
  rest_ms: number,
  ask: () => Promise<Answer>,
  tell: (answer: Answer) => void,
): void {
  useEffect(() => {
    if (question === null) return;
    let newest = true;
    const later = window.setTimeout(() => void ask().then((answer) => newest && tell(answer)), rest_ms);
    return () => {
      newest = false;
      window.clearTimeout(later);
    };
    // eslint-disable-next-line react-hooks/exhaustive-deps -- what is asked is in the question; how, is the same ever after
  }, [question]);
}
