// node read_gltf.mjs FILE CAMERA: checks a file with the validator, and says where points fall, as three.js has it.
// Standard input: {"seconds": […], "points": [[x, y, z], …], "size": [w, h]}. Answers: errors, and pixels by moment.
import fs from "node:fs";
import { createRequire } from "node:module";
import * as THREE from "three";
import { GLTFLoader } from "three/addons/loaders/GLTFLoader.js";

globalThis.self = globalThis;
globalThis.createImageBitmap = async () => ({ width: 1, height: 1, close() {} });
const validator = createRequire(import.meta.url)("gltf-validator");
const [file, name] = process.argv.slice(2);
const asked = JSON.parse(fs.readFileSync(0, "utf8"));
const data = fs.readFileSync(file);
const report = await validator.validateBytes(new Uint8Array(data));
const buffer = data.buffer.slice(data.byteOffset, data.byteOffset + data.byteLength);
const gltf = await new GLTFLoader().parseAsync(buffer, "");
const camera = gltf.cameras.find((each) => each.parent?.name === name || each.name === name) ?? gltf.cameras[0];
const mixer = new THREE.AnimationMixer(gltf.scene);
gltf.animations.forEach((clip) => {
  const action = mixer.clipAction(clip).setLoop(THREE.LoopOnce);
  action.clampWhenFinished = true;
  action.play();
});

// What the loader leaves alone: the angle of view by KHR_animation_pointer.
const json = gltf.parser.json;
let angles = null;
for (const channel of json.animations?.[0]?.channels ?? []) {
  const pointer = channel.target.extensions?.KHR_animation_pointer?.pointer;
  if (pointer !== "/cameras/0/perspective/yfov") continue;
  const sampler = json.animations[0].samplers[channel.sampler];
  const [times, values] = await Promise.all(
    [sampler.input, sampler.output].map((k) => gltf.parser.getDependency("accessor", k)));
  angles = new THREE.LinearInterpolant(times.array, values.array, 1);
}

const places = {}, shown = {};
const pixels = asked.seconds.map((seconds) => {
  mixer.setTime(seconds);
  if (angles) camera.fov = THREE.MathUtils.radToDeg(angles.evaluate(seconds)[0]);
  camera.updateProjectionMatrix();
  gltf.scene.updateMatrixWorld(true);
  gltf.scene.traverse((each) => {
    (places[each.name] ??= []).push(each.matrixWorld.elements.slice());
    if (each.isMesh) (shown[each.name.replaceAll("_", " ").replace(" shown", "")] ??= [])
      .push(each.matrixWorld.elements.slice());
  });
  return asked.points.map((point) => {
    const at = new THREE.Vector3(...point).project(camera);
    return [(at.x * 0.5 + 0.5) * asked.size[0], (0.5 - at.y * 0.5) * asked.size[1]];
  });
});
const meshes = [], lights = [];
gltf.scene.traverse((each) => {
  if (!each.isLight) return;
  const at = new THREE.Vector3().setFromMatrixPosition(each.matrixWorld);
  const along = new THREE.Vector3(0, 0, -1).transformDirection(each.matrixWorld);
  lights.push({ type: each.type, intensity: each.intensity, at: at.toArray(), along: along.toArray() });
});
gltf.scene.traverse((each) => { if (each.isMesh) meshes.push(each.name, each.parent?.name); });
console.log(JSON.stringify({
  errors: report.issues.numErrors, warnings: report.issues.numWarnings,
  messages: report.issues.messages.filter((each) => each.severity < 2), pixels, meshes, lights, places, shown,
}));
