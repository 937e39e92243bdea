// What stands on the easel before the page's own picture is there: the one that was made ahead when this frame was
// walked to. Runs while the page is read, before it is painted.
(() => {
  const kept = JSON.parse(sessionStorage.getItem('ag-standing') ?? 'null');
  sessionStorage.removeItem('ag-standing');
  if (!kept || kept.id !== Number(location.pathname.split('/').at(-1))) return;
  const picture = new Image();
  picture.id = 'ag-standing';
  picture.className = 'ag-standing';
  picture.alt = '';
  const [left, top, width, height] = kept.box.map((v) => `${v}px`);
  Object.assign(picture.style, { left, top, width, height });
  const stands = () => {
    document.documentElement.dataset.stood = Date.now() - kept.since;
  };
  picture.addEventListener('load', () => requestAnimationFrame(stands));
  picture.src = kept.url;
  document.getElementById('ag-canvas').after(picture);
})();
