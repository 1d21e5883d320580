import { useState } from 'react';

/** Something that may fail, and what it said when it did. */
export function useAttempt(): { wrong: string | null; attempt: (act: () => Promise<void>) => void } {
  const [wrong, setWrong] = useState<string | null>(null);
  const attempt = (act: () => Promise<void>): void =>
    void act().then(
      () => setWrong(null),
      (error: unknown) => setWrong((error as Error).message),
    );
  return { wrong, attempt };
}
