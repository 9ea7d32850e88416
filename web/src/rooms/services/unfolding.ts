import { useState } from "react";

/** Which boxes of a picture are unfolded, and how that is chosen. */
export interface Unfolding {
  unfolded: number[];
  unfold: (box: number) => void;
  fold: () => void;
}

/** Boxes that are unfolded; another question begins with none. */
export function useUnfolding(...question: (string | undefined)[]): Unfolding {
  const asked = JSON.stringify(question);
  const [kept, setKept] = useState<{ asked: string; boxes: number[] }>({ asked, boxes: [] });
  const unfolded = kept.asked === asked ? kept.boxes : [];
  return {
    unfolded,
    unfold: (box) =>
      setKept({ asked, boxes: [...unfolded.filter((other) => other !== box), box].slice(-MOST) }),
    fold: () => setKept({ asked, boxes: [] }),
  };
}

/** As many as may be asked for at once. */
const MOST = 50;
