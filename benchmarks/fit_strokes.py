"""Fit the network that hears the strokes of a drum kit, on songs whose drum notes are known.

Usage: python benchmarks/fit_strokes.py OUT.npz FOLDER... [--held WORD,WORD] [--epochs N]
Each FOLDER holds songs with NAME.json in which "strokes" are rows of second, General MIDI drum note and velocity, as
play_strokes.py makes them. Songs with a held word in their name are left out, and measured after each epoch. Needs
PyTorch, which Zembi itself does not.
"""

import zembi  # noqa: F401 - before numpy: one thread of linear algebra

# isort: split
import argparse
import json
import multiprocessing
from pathlib import Path

import numpy as np
import soxr
import torch
import torch.nn.functional as functional
from drum_notes import NOTES
from torch import Tensor, nn

from zembi.core.song.spectrum import HOP, RATE, Singles, describe
from zembi.core.song.strokes import INSTRUMENTS
from zembi.media.sound import read_sound

#: Half width of the target of a stroke, in frames, about its exact moment.
_WIDTH = 1.6
_FRAMES, _BATCH, _RATE = 256, 32, 4e-3


class StrokeNetwork(nn.Module):
    """Two-dimensional convolutions over the mel spectrum, then one-dimensional ones over time; see core/song/network.py."""

    def __init__(self, mean: Tensor, spread: Tensor) -> None:
        super().__init__()
        self.mean, self.spread = mean, spread
        sizes = [((5, 3), 1, 12), ((3, 3), 12, 24), ((3, 3), 24, 24)]
        self.planes = nn.ModuleList(
            nn.Conv2d(inner, outer, kernel, padding=(kernel[0] // 2, kernel[1] // 2))
            for kernel, inner, outer in sizes
        )
        self.plane_norms = nn.ModuleList(nn.BatchNorm2d(outer) for _, _, outer in sizes)
        self.lines = nn.ModuleList(
            [
                nn.Conv1d(240, 48, 3, padding=1),
                nn.Conv1d(48, 48, 5, padding=2),
                nn.Conv1d(48, 2 * len(INSTRUMENTS), 1),
            ]
        )
        self.line_norms = nn.ModuleList([nn.BatchNorm1d(48), nn.BatchNorm1d(48)])
        self.drop = nn.Dropout(0.15)

    def forward(self, mel: Tensor) -> Tensor:
        """Shape (songs, frames, 40) to (songs, frames, instruments twice): activations, then hardness, before the sigmoid."""
        x = ((mel - self.mean) / self.spread)[:, None]
        for k, (plane, norm) in enumerate(zip(self.planes, self.plane_norms, strict=True)):
            x = functional.relu(norm(plane(x)))
            x = functional.max_pool2d(x, (1, 2)) if k < 2 else x
        # Bands, and the channels of each: the order in which the package's own inference has them.
        x = x.permute(0, 3, 1, 2).flatten(1, 2)
        for line, norm in zip(self.lines, self.line_norms, strict=False):
            x = self.drop(functional.relu(norm(line(x))))
        return self.lines[2](x).permute(0, 2, 1)


def song_frames(path: Path) -> tuple[Singles, Singles, Singles]:
    """Mel spectrum of a song, the height of each instrument's target and its velocity, frame by frame."""
    sound, rate = read_sound(path)
    mel = describe(soxr.resample(sound.mean(axis=1), rate, RATE).astype(np.float32)).mel
    target, hard = np.zeros((2, len(mel), len(INSTRUMENTS)), np.float32)
    for second, note, velocity in json.loads(path.with_suffix(".json").read_text())["strokes"]:
        for k, name in enumerate(INSTRUMENTS):
            if note not in NOTES[name]:
                continue
            at = second * RATE / HOP
            for frame in range(max(0, int(at) - 2), min(len(mel), int(at) + 4)):
                height = 1 - abs(frame - at) / _WIDTH
                if height > target[frame, k]:
                    target[frame, k], hard[frame, k] = height, velocity / 127
    return mel.copy(), target, hard


def all_frames(paths: list[Path]) -> list[tuple[Tensor, Tensor, Tensor]]:
    """:func:`song_frames` of songs, by all processors."""
    with multiprocessing.get_context("spawn").Pool() as pool:
        return [tuple(map(torch.from_numpy, rows)) for rows in pool.imap(song_frames, paths)]


def batch(songs: list[tuple[Tensor, Tensor, Tensor]], rng: np.random.Generator) -> list[Tensor]:
    """Pieces of songs, each as loud and as coloured as chance has it."""
    shares = np.array([len(mel) for mel, _, _ in songs], dtype=float)
    out = []
    for k in rng.choice(len(songs), _BATCH, p=shares / shares.sum()):
        first = int(rng.integers(0, len(songs[k][0]) - _FRAMES))
        mel, target, hard = (row[first : first + _FRAMES] for row in songs[k])
        colour = np.interp(np.arange(mel.shape[1]), [0, 8, 16, 27, 39], rng.normal(size=5) * 0.25)
        other = torch.from_numpy((colour + rng.normal() * 0.25).astype(np.float32)) * (mel > 0.05)
        out.append((torch.clamp(mel + other, min=0), target, hard))
    return [torch.stack(rows) for rows in zip(*out, strict=True)]


def loss_of(out: Tensor, target: Tensor, hard: Tensor) -> Tensor:
    """Cross-entropy of the activations, in which strokes count more, and the error of the hardness at strokes."""
    count = target.shape[2]
    struck = target > 0.3
    entropy = functional.binary_cross_entropy_with_logits(out[..., :count], target, reduction="none")
    hardness = (torch.sigmoid(out[..., count:]) - hard) ** 2 * struck
    return 10 * (entropy * (1 + 4 * target)).mean() + hardness.sum() / (struck.sum() + 1)


def folded(layer: nn.Module, norm: nn.Module | None) -> tuple[np.ndarray, np.ndarray]:
    """Weights and bias of a layer with its normalisation in them."""
    weights = layer.weight.detach().numpy().astype(np.float64)
    bias = layer.bias.detach().numpy().astype(np.float64)
    if norm is None:
        return weights, bias
    scale = (norm.weight / torch.sqrt(norm.running_var + norm.eps)).detach().numpy()
    mean, shift = norm.running_mean.numpy(), norm.bias.detach().numpy()
    return weights * scale.reshape(-1, *[1] * (weights.ndim - 1)), (bias - mean) * scale + shift


def save(net: StrokeNetwork, path: Path) -> None:
    """Write the weights as the package reads them, inputs before outputs; those of the hardness only helped to fit."""
    kept = {"mean": net.mean.numpy(), "spread": net.spread.numpy()}
    layers = [
        *zip(net.planes, net.plane_norms, strict=True),
        *zip(net.lines, [*net.line_norms, None], strict=True),
    ]
    for k, (layer, norm) in enumerate(layers):
        weights, kept[f"b{k}"] = folded(layer, norm)
        kept[f"w{k}"] = weights.transpose(2, 3, 1, 0) if weights.ndim == 4 else weights.transpose(2, 1, 0)
    last, count = len(layers) - 1, len(INSTRUMENTS)
    kept[f"w{last}"], kept[f"b{last}"] = kept[f"w{last}"][..., :count], kept[f"b{last}"][:count]
    np.savez(path, **{name: value.astype(np.float16) for name, value in kept.items()})


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("out", type=Path)
    parser.add_argument("folders", type=Path, nargs="+")
    parser.add_argument("--held", default="", help="words of names, with commas between them")
    parser.add_argument("--epochs", type=int, default=7)
    chosen = parser.parse_args()
    words = [w for w in chosen.held.split(",") if w]
    paths = [p for f in chosen.folders for p in sorted(f.iterdir()) if p.suffix in (".wav", ".flac")]
    fitted = all_frames([p for p in paths if not any(w in p.name for w in words)])
    held = all_frames([p for p in paths if any(w in p.name for w in words)])
    some = torch.cat([mel[::20] for mel, _, _ in fitted])
    net = StrokeNetwork(some.mean(dim=0), some.std(dim=0))
    steps = sum(len(mel) for mel, _, _ in fitted) // (_FRAMES * _BATCH)
    optimiser = torch.optim.AdamW(net.parameters(), weight_decay=1e-3)
    pace = torch.optim.lr_scheduler.OneCycleLR(optimiser, _RATE, total_steps=steps * chosen.epochs + 1)
    rng = np.random.default_rng(0)
    for epoch in range(chosen.epochs):
        net.train()
        for _ in range(steps):
            mel, target, hard = batch(fitted, rng)
            loss = loss_of(net(mel), target, hard)
            optimiser.zero_grad()
            loss.backward()
            nn.utils.clip_grad_norm_(net.parameters(), 2.0)
            optimiser.step()
            pace.step()
        net.eval()
        with torch.no_grad():
            losses = [float(loss_of(net(m[None]), t[None], h[None])) for m, t, h in held]
        print(
            f"epoch {epoch}: {float(loss):.3f}, of those held back {np.mean(losses or [np.nan]):.3f}",
            flush=True,
        )
        save(net, chosen.out)


if __name__ == "__main__":
    main()
