import { Link } from "wouter";
import { Mark } from "../ui/controls";
import * as t from "../words/texts/app/Nowhere";

/** For addresses at which there is nothing. */
export function Nowhere() {
  return (
    <main className="grid h-full place-items-center">
      <div className="flex max-w-md flex-col items-start gap-2">
        <Mark />
        <h1 className="text-[20px] font-semibold">{t.thereIsNothingAt}</h1>
        <p className="text-ink-2">{t.itMayBeMisspelt}</p>
        <Link href="/" className="font-semibold text-mark hover:underline">
          {t.allReviews}
        </Link>
      </div>
    </main>
  );
}
