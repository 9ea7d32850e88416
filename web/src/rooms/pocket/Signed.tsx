import { useRef, useState } from "react";
import { postForm } from "../../api/client";
import { Dialog } from "../../parts/Dialog";
import { useDraft } from "../../parts/draft";
import { FormFoot, TextField } from "../../parts/Form";
import { t } from "../../words";

interface Props {
  asset: number;
  named: string;
  /** Who has it. */
  person: string;
  close: () => void;
}

/** A signature on the glass: that somebody received the device, kept with it as a picture. */
export function Signed({ asset, named, person, close }: Props) {
  const { field, v, save, rest, busy } = useDraft({ name: person }, { close, anew: "assets" });
  const glass = useRef<HTMLCanvasElement>(null);
  const [drawn, setDrawn] = useState(false);
  const at = (event: React.PointerEvent<HTMLCanvasElement>): [number, number] => {
    const box = event.currentTarget.getBoundingClientRect();
    const scale = event.currentTarget.width / box.width;
    return [(event.clientX - box.left) * scale, (event.clientY - box.top) * scale];
  };
  const begin = (event: React.PointerEvent<HTMLCanvasElement>) => {
    event.currentTarget.setPointerCapture(event.pointerId);
    const pen = event.currentTarget.getContext("2d");
    pen?.beginPath();
    pen?.moveTo(...at(event));
  };
  const go = (event: React.PointerEvent<HTMLCanvasElement>) => {
    const pen = event.currentTarget.getContext("2d");
    if (!pen || !event.currentTarget.hasPointerCapture(event.pointerId)) return;
    pen.lineWidth = 3;
    pen.lineCap = "round";
    pen.strokeStyle = "#0c2b33";
    pen.lineTo(...at(event));
    pen.stroke();
    setDrawn(true);
  };
  const wipe = () => {
    const canvas = glass.current;
    canvas?.getContext("2d")?.clearRect(0, 0, canvas.width, canvas.height);
    setDrawn(false);
  };
  const keep = save(async () => {
    const picture = await new Promise<Blob | null>((made) => glass.current?.toBlob(made, "image/png"));
    if (!picture) throw new Error(t("The browser made no picture of the signature."));
    const body = new FormData();
    body.set("text", t("{{name}} signed for {{named}}.", { name: v.name, named }));
    body.set("file", picture, `signature-${named}.png`);
    await postForm(`/api/assets/${asset}/papers`, body);
    return t("The signature is kept with {{named}}.", { named });
  });
  return (
    <Dialog title={t("Sign for {{named}}", { named })} close={close}>
      <form onSubmit={keep}>
        <TextField label={t("Who signs")} {...field("name")} required />
        <p className="pb-1 text-[13px] font-semibold">{t("Signature")}</p>
        <canvas
          ref={glass}
          width={900}
          height={360}
          aria-label={t("Sign here with a finger or pen")}
          className="h-40 w-full touch-none rounded border border-base-300 bg-white"
          onPointerDown={begin}
          onPointerMove={go}
        />
        <button type="button" className="link-quiet mt-1 text-[13px] font-semibold" onClick={wipe}>
          {t("Wipe")}
        </button>
        {rest}
        <FormFoot close={close} busy={busy || !drawn} save={t("Keep it")} />
      </form>
    </Dialog>
  );
}
