import {
  closestCenter,
  DndContext,
  type DragEndEvent,
  KeyboardSensor,
  PointerSensor,
  useSensor,
  useSensors,
} from "@dnd-kit/core";
import {
  arrayMove,
  rectSortingStrategy,
  SortableContext,
  sortableKeyboardCoordinates,
} from "@dnd-kit/sortable";
import { useQuery } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { asks } from "../../api/asking";
import { client, ok, type Schemas } from "../../api/client";
import { both } from "../../parts/ask/written";
import { Unanswered } from "../../parts/Problem";
import { useDone } from "../../parts/Sheet";
import { t } from "../../words";
import { type Card, known, useAnswers } from "./answers";
import { BoardForm } from "./BoardForm";
import { CardForm } from "./CardForm";
import { Drawer } from "./Drawer";
import { Placed } from "./Placed";

export type BoardOf = Schemas["BoardOut"];

/** The board one looks at: its cards answered together, laid out by hand or by keys. */
export function Board({ at }: { at: string | undefined }) {
  const asked = useQuery(asks("/api/boards"));
  if (asked.error || !asked.data) return <Unanswered asked={asked} what={t("Fetching the board …")} />;
  const { boards, chosen } = asked.data;
  const board = boards.find((b) => b.key === chosen);
  return board ? <Shown key={board.key} board={board} boards={boards} at={at} /> : null;
}

/** What keeps a board laid out otherwise: a copy of one's own where it ships or is another's. */
function useLaidOut(board: BoardOf, boards: BoardOf[]) {
  const done = useDone("boards");
  return (change: Partial<Pick<BoardOf, "name" | "cards" | "drawer" | "access" | "role">>, said = "") => {
    const whole = {
      name: board.name,
      cards: board.cards,
      drawer: board.drawer,
      access: board.access,
      role: board.role,
      ...change,
    };
    const own = board.ships || (board.access === "read" && !board.mine);
    const body = (
      own
        ? {
            ...whole,
            name: freeName(t("{{name}}, mine", { name: whole.name }), boards),
            access: "own",
            role: "",
          }
        : { ...whole, version: board.version }
    ) as Schemas["BoardIn"];
    return done(
      () =>
        own
          ? ok(client.POST("/api/boards", { body }))
          : ok(client.PUT("/api/boards/{number}", { params: { path: { number: Number(board.key) } }, body })),
      own ? t("“{{name}}” is a board of your own now.", { name: body.name }) : said,
    );
  };
}

/** A name no board of one's own has. */
function freeName(wanted: string, boards: BoardOf[]): string {
  const taken = new Set(boards.filter((b) => b.mine).map((b) => b.name));
  let name = wanted;
  for (let n = 2; taken.has(name); n += 1) name = `${wanted} ${n}`;
  return name;
}

function Shown({ board, boards, at }: { board: BoardOf; boards: BoardOf[]; at: string | undefined }) {
  const [cards, setCards] = useState<Card[] | null>(null);
  const [form, setForm] = useState<Card | "new" | null>(null);
  const [open, setOpen] = useState<"drawer" | "board" | null>(null);
  const wall = useRef<HTMLElement>(null);
  const [narrow, setNarrow] = useState<Record<string, string>>({});
  const shown = cards ?? board.cards;
  // What is narrowed in place is asked so for now, and not kept with the board.
  const asked = (card: Card): Card => ({ ...card, filter: both(card.filter, narrow[card.key]) });
  const answers = useAnswers(shown.map(asked), at);
  const layOut = useLaidOut(board, boards);
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 6 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  const keep = async (next: Card[], drawer = board.drawer, said = "") => {
    setCards(next);
    await layOut({ cards: next, drawer }, said);
    setCards(null);
  };
  const moved = ({ active, over }: DragEndEvent) => {
    if (!over || active.id === over.id) return;
    const keys = shown.map((c) => c.key);
    void keep(arrayMove(shown, keys.indexOf(String(active.id)), keys.indexOf(String(over.id))));
  };
  const changed = (card: Card) => keep(shown.map((c) => (c.key === card.key ? card : c)));
  const off = (card: Card) =>
    keep(
      shown.filter((c) => c.key !== card.key),
      [card, ...board.drawer.filter((c) => c.key !== card.key)],
      t("“{{title}}” is in the drawer.", { title: card.title }),
    );
  const put = (card: Card) => {
    const on = shown.some((c) => c.key === card.key);
    void keep(
      on ? shown.map((c) => (c.key === card.key ? card : c)) : [...shown, card],
      board.drawer.filter((c) => c.key !== card.key),
    );
  };
  return (
    <section ref={wall} aria-label={`Board: ${board.name}`} className="@container min-w-0 bg-base-200">
      <Head
        board={board}
        boards={boards}
        open={setOpen}
        add={() => setForm("new")}
        wall={() => void wall.current?.requestFullscreen()}
      />
      <DndContext sensors={sensors} collisionDetection={closestCenter} onDragEnd={moved}>
        <SortableContext items={shown.map((c) => c.key)} strategy={rectSortingStrategy}>
          <ul className="grid auto-rows-[minmax(216px,auto)] grid-flow-dense grid-cols-1 gap-3 @xl:grid-cols-2 @6xl:grid-cols-4">
            {shown.map((card) => (
              <Placed
                key={card.key}
                card={card}
                asked={asked(card)}
                answer={answers.data?.[known(asked(card))]}
                at={at}
                narrow={narrow[card.key] ?? ""}
                narrowTo={(text) => setNarrow({ ...narrow, [card.key]: text })}
                change={changed}
                edit={() => setForm(card)}
                off={() => void off(card)}
              />
            ))}
          </ul>
        </SortableContext>
      </DndContext>
      {shown.length === 0 && (
        <p className="dim p-4">{t("This board has no cards. Put one here, or take one from the drawer.")}</p>
      )}
      {form && <CardForm held={form === "new" ? null : form} close={() => setForm(null)} put={put} />}
      {open === "drawer" && <Drawer cards={board.drawer} put={put} close={() => setOpen(null)} />}
      {open === "board" && <BoardForm board={board} close={() => setOpen(null)} />}
    </section>
  );
}

interface HeadProps {
  board: BoardOf;
  boards: BoardOf[];
  open: (what: "drawer" | "board") => void;
  add: () => void;
  wall: () => void;
}

function Head({ board, boards, open, add, wall }: HeadProps) {
  const done = useDone("boards");
  const choose = (key: string) =>
    void done(() => ok(client.POST("/api/boards/chosen", { body: { board: key } })));
  return (
    <div className="flex flex-wrap items-center gap-2 pb-2.5">
      <select
        className="select select-sm w-56"
        aria-label={t("Board")}
        value={board.key}
        onChange={(e) => choose(e.target.value)}
      >
        {boards.map((b) => (
          <option key={b.key} value={b.key}>
            {b.name}
            {b.ships || b.mine ? "" : t(" (by {{made_by}})", { made_by: b.made_by })}
          </option>
        ))}
      </select>
      <span className="flex-1" />
      <button type="button" className="btn btn-sm" onClick={add}>
        {t("Put a card here")}
      </button>
      <button type="button" className="btn btn-sm" onClick={() => open("drawer")}>
        {t("Drawer")}
      </button>
      <button type="button" className="btn btn-sm" onClick={() => open("board")}>
        {t("This board")}
      </button>
      <button type="button" className="btn btn-sm" onClick={wall}>
        {t("On a wall")}
      </button>
    </div>
  );
}
