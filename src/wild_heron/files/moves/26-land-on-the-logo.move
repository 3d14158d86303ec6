{
 "format": "wild-heron-move",
 "version": 1,
 "move": {
  "name": "Land on the logo",
  "line": "Comes in from far and above, turns to the front, and lands softly.",
  "tags": [
   "bold",
   "logo"
  ],
  "frames": 120.0,
  "nodes": [
   {
    "kind": "null",
    "id": "turn",
    "name": "Turn",
    "channels": [
     {
      "name": "rotation.x",
      "value": -32.0,
      "keys": [
       {
        "frame": 0.0,
        "value": -32.0,
        "span": {
         "type": "family",
         "name": "quint",
         "direction": "out"
        }
       },
       {
        "frame": 120.0,
        "value": 0.0,
        "span": {
         "type": "family",
         "name": "quint",
         "direction": "out"
        }
       }
      ]
     },
     {
      "name": "rotation.y",
      "value": 48.0,
      "keys": [
       {
        "frame": 0.0,
        "value": 48.0,
        "span": {
         "type": "family",
         "name": "quint",
         "direction": "out"
        }
       },
       {
        "frame": 120.0,
        "value": 0.0,
        "span": {
         "type": "family",
         "name": "quint",
         "direction": "out"
        }
       }
      ]
     }
    ],
    "colour": "#8fbf9f"
   },
   {
    "kind": "camera",
    "id": "camera",
    "name": "Camera",
    "carrier": "turn",
    "channels": [
     {
      "name": "position.z",
      "value": 7.0,
      "keys": [
       {
        "frame": 0.0,
        "value": 7.0,
        "span": {
         "type": "family",
         "name": "quint",
         "direction": "out"
        }
       },
       {
        "frame": 120.0,
        "value": 3.0,
        "span": {
         "type": "family",
         "name": "quint",
         "direction": "out"
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
