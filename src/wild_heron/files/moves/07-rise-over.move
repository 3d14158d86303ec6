{
 "format": "wild-heron-move",
 "version": 1,
 "move": {
  "name": "Rise over",
  "line": "Climbs and looks down: from among the things to above them.",
  "tags": [
   "calm",
   "crane"
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
      "value": 4.0,
      "keys": [
       {
        "frame": 0.0,
        "value": 4.0,
        "span": {
         "type": "family",
         "name": "sine",
         "direction": "in-out"
        }
       },
       {
        "frame": 120.0,
        "value": -38.0,
        "span": {
         "type": "family",
         "name": "sine",
         "direction": "in-out"
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
      "value": 3.0,
      "keys": [
       {
        "frame": 0.0,
        "value": 3.0,
        "span": {
         "type": "family",
         "name": "sine",
         "direction": "in-out"
        }
       },
       {
        "frame": 120.0,
        "value": 3.6,
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
  "rest": "start",
  "focuses": true
 }
}
