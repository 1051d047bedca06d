import Link from 'next/link';
import styles from '../components/frame/frame.module.css';

/** An address that leads nowhere. */
export default function NotFoundPage() {
  return (
    <main className={styles.middle}>
      <h1 className="serif">There is nothing at this address.</h1>
      <Link href="/">All plans</Link>
    </main>
  );
}
