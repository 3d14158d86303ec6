{
 "format": "wild-heron-move",
 "version": 1,
 "move": {
  "name": "Swing in and settle",
  "line": "Swings in from the side, past its place, and settles.",
  "tags": [
   "lively",
   "turn"
  ],
  "frames": 108.0,
  "nodes": [
   {
    "kind": "null",
    "id": "turn",
    "name": "Turn",
    "channels": [
     {
      "name": "rotation.y",
      "value": 42.0,
      "keys": [
       {
        "frame": 0.0,
        "value": 42.0,
        "span": {
         "type": "family",
         "name": "quad",
         "direction": "in"
        }
       },
       {
        "frame": 54.0,
        "value": 0.0,
        "span": {
         "type": "family",
         "name": "quad",
         "direction": "in"
        }
       }
      ]
     }
    ],
    "colour": "#8fbf9f",
    "movers": [
     {
      "type": "overshoot",
      "targets": [
       {
        "channel": "rotation.y"
       }
      ],
      "bounce": 0.25,
      "speed": 0.9
     }
    ]
   },
   {
    "kind": "camera",
    "id": "camera",
    "name": "Camera",
    "carrier": "turn",
    "channels": [
     {
      "name": "position.z",
      "value": 4.2,
      "keys": [
       {
        "frame": 0.0,
        "value": 4.2,
        "span": {
         "type": "family",
         "name": "sine",
         "direction": "in-out"
        }
       },
       {
        "frame": 54.0,
        "value": 3.0,
        "span": {
         "type": "family",
         "name": "sine",
         "direction": "in-out"
        }
       }
      ]
     }
    ]
   }
  ],
  "camera": "camera",
  "focuses": true
 }
}
