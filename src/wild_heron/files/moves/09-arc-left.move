{
 "format": "wild-heron-move",
 "version": 1,
 "move": {
  "name": "Arc left",
  "line": "Goes left about the subject, which stays in the middle.",
  "tags": [
   "calm",
   "turn"
  ],
  "frames": 96.0,
  "nodes": [
   {
    "kind": "null",
    "id": "turn",
    "name": "Turn",
    "channels": [
     {
      "name": "rotation.y",
      "value": 15.0,
      "keys": [
       {
        "frame": 0.0,
        "value": 15.0,
        "span": {
         "type": "family",
         "name": "sine",
         "direction": "in-out"
        }
       },
       {
        "frame": 96.0,
        "value": -15.0,
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
      "value": 3.0
     }
    ]
   }
  ],
  "camera": "camera",
  "rest": "middle",
  "focuses": true
 }
}
