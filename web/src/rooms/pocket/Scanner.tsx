import { useEffect, useRef, useState } from "react";
import { t } from "../../words";

interface Found {
  rawValue: string;
}
interface Detector {
  detect: (from: ImageData) => Promise<Found[]>;
}
type Reader = (image: ImageData) => Promise<string | undefined>;

const EVERY = 160;
/** Milliseconds in which one code is one scan, however long it is held before the camera. */
const SAME = 2500;
const WIDEST = 800;

/** The browser's own reader of codes where it has one; else one for QR codes, loaded when it is needed. */
async function reader(): Promise<Reader> {
  const Own = (globalThis as { BarcodeDetector?: new (o: object) => Detector }).BarcodeDetector;
  if (Own) {
    try {
      const detector = new Own({ formats: ["qr_code", "data_matrix", "code_128"] });
      await detector.detect(new ImageData(8, 8));
      return async (image) => (await detector.detect(image))[0]?.rawValue;
    } catch {
      // It is there by name alone, as on some desktops.
    }
  }
  const { default: read } = await import("jsqr");
  return async (image) => read(image.data, image.width, image.height)?.data || undefined;
}

/** The camera, and each code it sees told once. */
export function Scanner({ found }: { found: (code: string) => void }) {
  const video = useRef<HTMLVideoElement>(null);
  const tell = useRef(found);
  tell.current = found;
  const [trouble, setTrouble] = useState("");
  useEffect(() => {
    let over = false;
    let stream: MediaStream | undefined;
    const last = { code: "", at: 0 };
    const watch = async () => {
      if (!navigator.mediaDevices) throw new Error(t("no camera"));
      const [read, camera] = await Promise.all([
        reader(),
        navigator.mediaDevices.getUserMedia({ video: { facingMode: "environment" } }),
      ]);
      stream = camera;
      const shown = video.current;
      if (over || !shown) return;
      shown.srcObject = camera;
      await shown.play();
      const canvas = document.createElement("canvas");
      const drawn = canvas.getContext("2d", { willReadFrequently: true });
      while (!over && drawn) {
        if (shown.videoWidth) {
          const scale = Math.min(1, WIDEST / shown.videoWidth);
          canvas.width = Math.round(shown.videoWidth * scale);
          canvas.height = Math.round(shown.videoHeight * scale);
          drawn.drawImage(shown, 0, 0, canvas.width, canvas.height);
          const code = await read(drawn.getImageData(0, 0, canvas.width, canvas.height));
          const now = Date.now();
          if (code && !over && (code !== last.code || now - last.at > SAME)) {
            navigator.vibrate?.(40);
            tell.current(code);
          }
          if (code) Object.assign(last, { code, at: now });
        }
        await new Promise((done) => setTimeout(done, EVERY));
      }
    };
    watch().catch(() => {
      if (!over) setTrouble(t("The camera cannot be used here: allow it, or type what stands on the label."));
    });
    return () => {
      over = true;
      for (const track of stream?.getTracks() ?? []) track.stop();
    };
  }, []);
  if (trouble)
    return (
      <p role="alert" className="bg-warning px-4 py-3 text-[13px] text-warning-content">
        {trouble}
      </p>
    );
  return (
    <div className="relative h-56 overflow-hidden bg-[#1d2a2c]">
      <video
        ref={video}
        muted
        playsInline
        aria-label={t("What the camera sees")}
        className="h-full w-full object-cover"
      />
      <div className="pointer-events-none absolute inset-0 grid place-items-center">
        <div className="h-36 w-36 rounded-md border-[3px] border-accent" />
      </div>
    </div>
  );
}
