/** A picture of a drawing, as large as it is shown, on the ground on which it stands. */
export async function pictureOf(svg: SVGSVGElement): Promise<Blob> {
	const copy = svg.cloneNode(true) as SVGSVGElement;
	const from = [svg, ...svg.querySelectorAll<SVGElement>("*")];
	const to = [copy, ...copy.querySelectorAll<SVGElement>("*")];
	for (const [i, e] of from.entries()) {
		// a picture knows no stylesheet, so that each piece is given what it has
		const style = getComputedStyle(e);
		for (const name of [
			"fill",
			"stroke",
			"stroke-width",
			"stroke-dasharray",
			"opacity",
			"font-family",
			"font-size",
			"font-weight",
		])
			to[i]?.style.setProperty(name, style.getPropertyValue(name));
	}
	const { width, height } = svg.getBoundingClientRect();
	copy.setAttribute("xmlns", "http://www.w3.org/2000/svg");
	copy.setAttribute("width", String(width));
	copy.setAttribute("height", String(height));
	const picture = new Image();
	picture.src = `data:image/svg+xml;charset=utf-8,${encodeURIComponent(new XMLSerializer().serializeToString(copy))}`;
	await picture.decode();
	const canvas = document.createElement("canvas");
	canvas.width = Math.ceil(width * 2);
	canvas.height = Math.ceil(height * 2);
	const context = canvas.getContext("2d");
	if (!context) throw new Error("This browser can’t make a picture.");
	context.fillStyle = getComputedStyle(svg.closest(".card") ?? document.body).backgroundColor;
	context.fillRect(0, 0, canvas.width, canvas.height);
	context.drawImage(picture, 0, 0, canvas.width, canvas.height);
	return new Promise((done, fail) =>
		canvas.toBlob((b) => (b ? done(b) : fail(new Error("This browser can’t make a picture."))), "image/png"),
	);
}
