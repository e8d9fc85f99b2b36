import { useEffect, useEffectEvent, useState } from "react";
import { Problem } from "../api/client";

/** What the core answers to a question, asked anew when the key changes. */
export function useAsked<T>(ask: () => Promise<T>, key: string) {
  const [answer, setAnswer] = useState<{ key: string; value: T | null; error: string | null }>({
    key: "",
    value: null,
    error: null,
  });
  const put = useEffectEvent((of: string) => {
    ask().then(
      (value) => setAnswer({ key: of, value, error: null }),
      (e: unknown) =>
        setAnswer({ key: of, value: null, error: e instanceof Problem ? e.what : "failed" }),
    );
  });
  useEffect(() => put(key), [key]);
  return answer.key === key ? answer : { key, value: null, error: null };
}
