interface SectionProps {
  id: string;
  title: string;
  children: React.ReactNode;
  flush?: boolean;
}

export function Section({ id, title, children, flush }: SectionProps) {
  return (
    <section id={id} aria-labelledby={`${id}-title`} className="sheet min-w-0 scroll-mt-2 overflow-hidden">
      <h2 id={`${id}-title`} className="dim px-3.5 pt-2.5 pb-1.5 text-[12px] font-semibold">
        {title}
      </h2>
      <div className={`overflow-x-auto ${flush ? "" : "px-3.5 pb-3"}`}>{children}</div>
    </section>
  );
}
