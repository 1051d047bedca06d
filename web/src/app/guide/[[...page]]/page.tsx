import type { Metadata } from 'next';
import Link from 'next/link';
import { notFound } from 'next/navigation';
import { PulseMark } from '../../../components/frame/icons.tsx';
import { guidePage, PAGES } from '../../../features/guide/pages.ts';
import styles from '../../../features/guide/guide.module.css';

export const metadata: Metadata = { title: 'Guide · Herzschlag' };

type Params = { params: Promise<{ page?: string[] }> };

/** A page of the guide: the files of docs, which the application brings along. */
export default async function GuidePage({ params }: Params) {
  const { page = [] } = await params;
  const id = page.join('/');
  const html = await guidePage(id);
  if (html === undefined) notFound();
  return (
    <div className={styles.page}>
      <nav className={styles.pages} aria-label="Guide">
        <Link href="/" className={styles.mark} aria-label="All plans">
          <PulseMark size={28} />
        </Link>
        {PAGES.map((one) => (
          <Link
            key={one.id}
            href={one.id === '' ? '/guide' : `/guide/${one.id}`}
            {...(one.id === id ? { 'aria-current': 'page' as const } : {})}
          >
            {one.name}
          </Link>
        ))}
      </nav>
      <main className={styles.text} dangerouslySetInnerHTML={{ __html: html }} />
    </div>
  );
}
