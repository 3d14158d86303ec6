{
 "format": "wild-heron-move",
 "version": 1,
 "move": {
  "name": "Roll in",
  "line": "Comes in tilted and rights itself.",
  "tags": [
   "bold",
   "roll"
  ],
  "frames": 84.0,
  "nodes": [
   {
    "kind": "camera",
    "id": "camera",
    "name": "Camera",
    "channels": [
     {
      "name": "position.z",
      "value": 4.4,
      "keys": [
       {
        "frame": 0.0,
        "value": 4.4,
        "span": {
         "type": "family",
         "name": "sine",
         "direction": "in-out"
        }
       },
       {
        "frame": 84.0,
        "value": 3.0,
        "span": {
         "type": "family",
         "name": "sine",
         "direction": "in-out"
        }
       }
      ]
     },
     {
      "name": "rotation.z",
      "value": 16.0,
      "keys": [
       {
        "frame": 0.0,
        "value": 16.0,
        "span": {
         "type": "family",
         "name": "sine",
         "direction": "in-out"
        }
       },
       {
        "frame": 84.0,
        "value": 0.0,
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
