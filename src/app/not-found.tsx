import Link from '../ui/platform/Link';

/** An address that leads nowhere, as one of before there were several jobs. */
export default function NotFound() {
  return (
    <main style={{ display: 'grid', placeContent: 'center', gap: 10, height: '100vh', textAlign: 'center' }}>
      <h1>There is no such page</h1>
      <Link href="/jobs">All jobs</Link>
    </main>
  );
}
