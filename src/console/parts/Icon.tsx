/** An icon: an emoji, or a picture file that the service keeps. */
export function Icon({ icon, className = '' }: { icon: string | null | undefined; className?: string }) {
  if (!icon?.startsWith('pictures/')) return <span className={className}>{icon}</span>;
  const name = icon.slice('pictures/'.length);
  return (
    <img
      src={`/api/v1/pictures/${encodeURIComponent(name)}`}
      alt=""
      className={`inline-block size-[1.3em] object-contain align-middle ${className}`}
    />
  );
}
