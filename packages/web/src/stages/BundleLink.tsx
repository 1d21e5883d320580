// A bundle to be fetched: a bake or a render with all that it needs, to be run on another machine.
import { Package } from 'lucide-react';
import { useState, type ReactNode } from 'react';
import { flush } from '../data/bench';
import { Button, Quiet, Trouble } from '../parts/ui';

export function BundleLink({ href }: { href: string }): ReactNode {
  const [error, setError] = useState<string | null>(null);
  // the server packs what is saved
  const fetchIt = (): void => {
    setError(null);
    flush()
      .then(() => window.location.assign(href))
      .catch((e: Error) => setError(e.message));
  };

  return (
    <>
      <Button onPress={fetchIt}>
        <Package size={14} /> Bundle for another machine
      </Button>
      <Quiet>
        There: <code>bramblemist run BUNDLE.zip</code>. Its result comes back with “bring volumes” in Run.
      </Quiet>
      {error && <Trouble>{error}</Trouble>}
    </>
  );
}
