const FORMS = [
  ["delivery-sheet.html", "HTML"],
  ["delivery-sheet.pdf", "PDF"],
  ["delivery-sheet.json", "JSON"],
  ["checksums.sha256", "checksums"],
] as const;

/** The delivery sheet of a pressing in each of its forms. */
export function SheetLinks({ pressing }: { pressing: number }) {
  return (
    <p className="sheet-links">
      <span className="quiet">Delivery sheet:</span>
      {FORMS.map(([name, words]) => (
        <a key={name} href={`/api/pressings/${pressing}/sheet/${name}`} target="_blank" rel="noreferrer">
          {words}
        </a>
      ))}
    </p>
  );
}
